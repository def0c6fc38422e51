/** Accounts beside each other: by shift, day, week, line or product, and all of them as one. */
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { duration, whole } from "../../app/format";
import { useUnits } from "../../app/units";
import { Panel } from "../../ui/parts";
import { useWindowView } from "../planningWindow";
import { givenWords, share, type Tally } from "./words";

type Table = Schemas["AccountTable"];
type Row = Table["rows"][number];

const HEADS = [
  "Packs",
  "Availability",
  "Effectiveness",
  "Quality",
  "OEE",
  "Adherence",
  "Scrap, pulled",
  "Giveaway",
  "Oven idle",
];

export function AccountTable({ table, line }: { table: Table; line: string }) {
  const { clock } = useWindowView();
  const open = (row: Row) => {
    const own = new URLSearchParams({
      line: row.line ?? line,
      since: clock.typed(clock.minuteAt(row.since)),
      until: clock.typed(clock.minuteAt(row.until)),
      ...(row.line === null && { by: "line" }),
    });
    return `/account?${own}`;
  };
  return (
    <Panel label={`By ${table.by}`} className="m-2 mt-0 overflow-x-auto p-4">
      <h2 className="mb-2 font-bold">By {table.by}</h2>
      {table.says && <p className="mb-1 text-ink-2 text-sm">{table.says}</p>}
      {table.rows.length === 0 && <p className="text-ink-2 text-sm">Nothing was counted in these hours.</p>}
      <table className="w-full text-sm">
        <thead>
          <tr className="text-left text-muted text-xs">
            <th className="py-1 font-semibold capitalize">{table.by}</th>
            {HEADS.map((head) => (
              <th key={head} className="py-1 pl-4 text-right font-semibold">
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {table.rows.map((row) => (
            <tr key={row.name} className="border-rule border-t">
              <td className="py-1.5 font-semibold">
                {row.product ? (
                  row.name
                ) : (
                  <Link className="underline" to={open(row)}>
                    {row.name}
                  </Link>
                )}
              </td>
              <Cells tally={row.tally} />
            </tr>
          ))}
          <tr className="border-ink-2 border-t-2 font-semibold">
            <td className="py-1.5">All</td>
            <Cells tally={table.total} />
          </tr>
        </tbody>
      </table>
    </Panel>
  );
}

function Cells({ tally }: { tally: Tally }) {
  const units = useUnits();
  const { figures } = tally;
  const off = [
    tally.scrapped > 0 && `${whole(tally.scrapped)} packs`,
    tally.pulled > 0 && `${whole(tally.pulled)} pieces`,
  ];
  const cells = [
    `${whole(figures.produced)} of ${whole(figures.planned)}`,
    share(figures.availability),
    share(figures.effectiveness),
    share(figures.quality),
    share(figures.oee),
    share(tally.adherence),
    off.filter(Boolean).join(", ") || "none",
    givenWords(tally.given_kg, units),
    duration(tally.oven_empty_min),
  ];
  return cells.map((cell, place) => (
    <td key={HEADS[place]} className="whitespace-nowrap py-1.5 pl-4 text-right">
      {cell}
    </td>
  ));
}
