/** What was made: lots by what stands on their labels; and the way to the lorries that they went with. */
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { useLots, useMeantLot } from "../../api/queries";
import { useUnits } from "../../app/units";
import { buttonLook, Empty, Header, Loading, Older, Panel, Refused } from "../../ui/parts";
import { useAddress } from "../../ui/useAddress";
import { useWindowView } from "../planningWindow";
import { amountOf, KINDS } from "./words";

type Line = Schemas["LotLine"];

export function RecordsView() {
  const [search, change] = useAddress();
  const words = search.get("words") ?? "";
  const [typed, type] = useState(words);
  const found = useLots(words);
  const navigate = useNavigate();
  const meant = useMeantLot();
  const set = (text: string) => {
    type(text);
    change((parameters) => (text.trim() ? parameters.set("words", text.trim()) : parameters.delete("words")));
  };
  return (
    <>
      <Header
        title="Records"
        sub="what came in, was mixed, packed and sent: every lot, and what it is made of"
        actions={
          <>
            <Link to="/upkeep" className={buttonLook()}>
              Tools and cleaning
            </Link>
            <Link to="/learning" className={buttonLook()}>
              Learning
            </Link>
            <Link to="/account" className={buttonLook()}>
              Account
            </Link>
            <Link to="/mock-recall" className={buttonLook()}>
              Mock recall
            </Link>
            <Link to="/dispatch" className={buttonLook()}>
              Dispatch
            </Link>
          </>
        }
      />
      <form
        className="mx-2 mb-2"
        onSubmit={(event) => {
          event.preventDefault();
          const onSuccess = (one?: Line) => one && navigate(`/lots/${one.lot.number}`);
          if (typed.trim() !== "") meant.mutate(typed.trim(), { onSuccess });
        }}
      >
        <label className="block rounded-xl border border-rule bg-paper px-4 py-3 text-sm">
          Scan a label, or type some of what stands on it
          <input
            // biome-ignore lint/a11y/noAutofocus: whoever comes here has a label in the hand
            autoFocus
            value={typed}
            onChange={(event) => set(event.target.value)}
            placeholder="lot, product, ingredient, supplier's lot"
            autoComplete="off"
            maxLength={120}
            className="mt-1 block w-full rounded-lg border-2 border-trail bg-ground px-3 py-2.5 font-semibold text-lg"
          />
        </label>
      </form>
      {meant.isError && <Refused error={meant.error} />}
      {found.isError && <Refused error={found.error} again={() => found.refetch()} />}
      {found.isPending && <Loading what="the lots" />}
      {found.data?.length === 0 && (
        <Empty title={words ? "No lot has that on its label" : "Nothing has been made yet"}>
          {words
            ? "Try less of it: a date as 260311, a product's name, a line."
            : "The record begins with the first dough of a published plan."}
        </Empty>
      )}
      {found.data && found.data.length > 0 && <Lots lines={found.data} />}
      <div className="mb-3 px-3">
        <Older of={found} />
      </div>
    </>
  );
}

function Lots({ lines }: { lines: Line[] }) {
  const units = useUnits();
  const { clock } = useWindowView();
  return (
    <Panel label="Lots" className="mx-2 mb-2 overflow-x-auto px-4 py-2">
      <table className="w-full text-sm">
        <thead>
          <tr className="text-left text-muted text-xs">
            <th className="py-1 font-semibold">Lot</th>
            <th className="py-1 font-semibold">What</th>
            <th className="py-1 font-semibold">When</th>
            <th className="py-1 text-right font-semibold">Made or came</th>
            <th className="py-1 text-right font-semibold">There</th>
            <th className="py-1 pl-4 font-semibold">Best before</th>
          </tr>
        </thead>
        <tbody>
          {lines.map((line) => (
            <tr key={line.lot.number} className="border-rule border-t">
              <td className="py-1.5 pr-3">
                <Link to={`/lots/${line.lot.number}`} className="font-semibold underline">
                  {line.lot.code}
                </Link>
                {line.held && <b className="block text-ember text-xs">held: {line.held}</b>}
              </td>
              <td className="py-1.5 pr-3">
                {line.what} <span className="text-ink-2 text-xs">{KINDS[line.lot.kind]}</span>
              </td>
              <td className="whitespace-nowrap py-1.5 pr-3">
                {clock.date(clock.minuteAt(line.lot.at))} {clock.time(clock.minuteAt(line.lot.at))}
              </td>
              <td className="whitespace-nowrap py-1.5 pr-3 text-right">
                {amountOf(line.lot.amount, line.unit, units)}
              </td>
              <td className="whitespace-nowrap py-1.5 text-right font-semibold">
                {amountOf(Math.max(0, line.left), line.unit, units)}
              </td>
              <td className="whitespace-nowrap py-1.5 pl-4">{line.lot.best_before ?? ""}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Panel>
  );
}
