/** The wall board: every line at a glance, or one alone, from far away. */
import { Link, useSearchParams } from "react-router";
import { useLineNow, useStanding } from "../../api/queries";
import { duration, whole } from "../../app/format";
import { useMinuteNow } from "../../app/useMinuteNow";
import { Pick } from "../../ui/Pick";
import { Header } from "../../ui/parts";
import { useWindowView } from "../planningWindow";
import { HourStrip } from "./HourBars";
import { inHand } from "./Lorries";
import type { LineNow } from "./NowView";
import { checkWords, paceWords } from "./pace";

const ALL = "all";

/** A line alone is so much larger. */
const ALONE = 1.7;

export function BoardView() {
  const { day, clock } = useWindowView();
  const [search, setSearch] = useSearchParams();
  const minute = useMinuteNow();
  const asked = search.get("line");
  const chosen = day.lines.filter((line) => line.id === asked);
  const lines = chosen.length > 0 ? chosen : day.lines;
  return (
    <>
      <Header
        title="Board"
        sub={<Simulated lines={lines.map((line) => line.id)} />}
        actions={
          <Pick
            label="Lines on the board"
            value={chosen[0]?.id ?? ALL}
            options={[
              { value: ALL, label: "All lines" },
              ...day.lines.map(({ id, name }) => ({ value: id, label: name })),
            ]}
            onChange={(line) => setSearch(line === ALL ? {} : { line })}
          />
        }
        figures={<div className="font-bold text-4xl text-steam">{clock.time(minute)}</div>}
      />
      <div
        className="grid flex-1 auto-rows-fr grid-cols-[repeat(auto-fit,minmax(24rem,1fr))] gap-2 px-2 pb-2"
        style={{ zoom: chosen.length > 0 ? ALONE : 1 }}
      >
        {lines.map((line) => (
          <Line key={line.id} line={line.id} name={line.name} minute={minute} />
        ))}
      </div>
    </>
  );
}

/** What the board shows, and that it is simulated where it is. */
function Simulated({ lines }: { lines: string[] }) {
  const now = useLineNow(lines[0]).data;
  const simulated = now?.sources.some((source) => source.is_simulated);
  return (
    <>
      {lines.length > 1 ? "every line" : "the line"} against its plan, now
      {simulated && <strong className="font-semibold text-crust"> · simulated plant</strong>}
    </>
  );
}

type LineProps = { line: string; name: string; minute: number };

function Line({ line, name, minute }: LineProps) {
  const { clock, names } = useWindowView();
  const now = useLineNow(line).data;
  const checks = useStanding(true).data?.find((one) => one.line === line);
  const standing = now?.standing[0];
  const begins = now?.next.find((one) => one.what === "begins");
  const late = now?.lorries.find((lorry) => lorry.is_worse);
  const edge = standing || late ? "border-ember" : "border-rule";
  return (
    <Link
      to={`/now?line=${line}`}
      className={`flex flex-col rounded-xl border-2 bg-paper p-5 hover:border-crust ${edge}`}
    >
      <h2 className="font-bold text-2xl">{name}</h2>
      {!now && <p className="text-ink-2">Loading …</p>}
      {now && <Pace now={now} />}
      {now && standing && (
        <p className="mt-2 font-bold text-ember text-xl">
          {now.timeline.rows.find((row) => row.station === standing.station)?.name ?? standing.station} stopped,{" "}
          {duration(Math.max(0, minute - standing.from_min))}
        </p>
      )}
      {now && (
        <div className="mt-auto pt-3">
          <HourStrip now={now} />
        </div>
      )}
      {begins && (
        <p className="pt-2 text-xl">
          <strong className="text-steam">{clock.time(begins.at_min)}</strong>{" "}
          {names.get(begins.product) ?? begins.product}
        </p>
      )}
      {now && <NextLorry now={now} />}
      {checks && checks.late + checks.held > 0 && <p className="font-bold text-ember text-lg">{checkWords(checks)}</p>}
    </Link>
  );
}

function Pace({ now }: { now: LineNow }) {
  if (!now.pace) return <p className="text-ink-2 text-lg">nothing has been counted yet</p>;
  return (
    <>
      <p className={`font-bold text-4xl leading-tight ${now.pace.stands === "behind" ? "text-ember" : ""}`}>
        {paceWords(now.pace)}
      </p>
      <p className="text-ink-2 text-lg">
        {whole(now.pace.per_h)} an hour; plan {whole(now.pace.planned_per_h)}
      </p>
    </>
  );
}

/** The first lorry that misses something, else the next one. */
function NextLorry({ now }: { now: LineNow }) {
  const { clock, waveNames } = useWindowView();
  const lorry = now.lorries.find((one) => one.is_worse) ?? now.lorries[0];
  if (!lorry) return null;
  return (
    <p className={`text-lg ${lorry.is_worse ? "font-bold text-ember" : "text-ink-2"}`}>
      {waveNames.get(lorry.wave) ?? lorry.wave} {clock.time(lorry.loaded_by_min)}: {inHand(lorry, "packs short")}
    </p>
  );
}
