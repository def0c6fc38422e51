/** What a signal was over the last hours: its mean, and from the least to the most of each stretch. */
import { scaleLinear } from "d3-scale";
import { area, line } from "d3-shape";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useSeries } from "../../api/queries";
import { digits } from "../../app/format";
import { momentFormat } from "../../app/moments";
import { useUnits } from "../../app/units";
import { Choice } from "../../ui/Choice";
import { Dialog } from "../../ui/Dialog";
import { Loading, Refused } from "../../ui/parts";
import { useWindowView } from "../planningWindow";
import { UNIT_OF } from "./unitOf";

const [WIDTH, HEIGHT, LEFT, BOTTOM] = [620, 240, 60, 24];
const TICKS = 5;

const BACK = [
  { value: "1", label: "1 h" },
  { value: "8", label: "8 h" },
  { value: "24", label: "1 day" },
  { value: "168", label: "7 days" },
];

type Props = { signal: Schemas["Signal"]; title: string; unit: string; onClose: () => void };

export function History({ signal, title, unit, onClose }: Props) {
  const [hours, setHours] = useState("1");
  const series = useSeries(signal, Number(hours));
  const units = useUnits();
  const of = UNIT_OF[signal.quantity];
  const shown = (value: number) => (of ? Number(units.shown(value, of).replaceAll(",", "")) : value);
  const file = (kind: string) => `/api/readings/readings.${kind}?line=${signal.line}&hours=${hours}`;
  return (
    <Dialog open onOpenChange={(open) => !open && onClose()} title={title}>
      <Choice label="How far back" value={hours} onChange={setHours} options={BACK} />
      {series.isError && <Refused error={series.error} />}
      {series.isPending && <Loading what="the readings" />}
      {series.data &&
        (series.data.points.length === 0 ? (
          <p className="mt-3 text-ink-2 text-sm">Nothing was read in this time.</p>
        ) : (
          <Drawing points={series.data.points} shown={shown} unit={of ? units.name(of) : unit} />
        ))}
      <p className="mt-2 text-sm">
        Every reading of the line:{" "}
        <a className="underline" href={file("csv")}>
          CSV
        </a>
        ,{" "}
        <a className="underline" href={file("parquet")}>
          Parquet
        </a>
      </p>
    </Dialog>
  );
}

type DrawingProps = { points: Schemas["ReadStretch"][]; shown: (value: number) => number; unit: string };

function Drawing({ points, shown, unit }: DrawingProps) {
  const { day } = useWindowView();
  const hands = momentFormat(day.time_zone, { weekday: "short", hour: "2-digit", minute: "2-digit" });
  const at = (point: Schemas["ReadStretch"]) => Date.parse(point.at);
  const [first, last] = [at(points[0] as Schemas["ReadStretch"]), at(points.at(-1) as Schemas["ReadStretch"])];
  const x = scaleLinear([first, Math.max(last, first + 1)], [LEFT, WIDTH - 8]);
  const low = Math.min(...points.map((point) => shown(point.least)));
  const high = Math.max(...points.map((point) => shown(point.most)));
  const y = scaleLinear([low, high === low ? low + 1 : high], [HEIGHT - BOTTOM, 10]).nice(TICKS);
  const band = area<Schemas["ReadStretch"]>()
    .x((point) => x(at(point)))
    .y0((point) => y(shown(point.least)))
    .y1((point) => y(shown(point.most)));
  const mean = line<Schemas["ReadStretch"]>()
    .x((point) => x(at(point)))
    .y((point) => y(shown(point.mean)));
  const newest = points.at(-1) as Schemas["ReadStretch"];
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="mt-3 w-full text-ink-2"
      role="img"
      aria-label={`from ${digits(low, 0, 2)} to ${digits(high, 0, 2)} ${unit}, last ${digits(shown(newest.last), 0, 2)} ${unit}`}
    >
      {y.ticks(TICKS).map((tick) => (
        <g key={tick}>
          <path d={`M${LEFT} ${y(tick)}H${WIDTH - 8}`} stroke="var(--rule)" />
          <text x={LEFT - 6} y={y(tick) + 4} textAnchor="end" fontSize="12" fill="currentColor">
            {digits(tick, 0, 2)}
          </text>
        </g>
      ))}
      <path d={band(points) ?? ""} fill="var(--steam)" opacity="0.25" />
      <path d={mean(points) ?? ""} fill="none" stroke="var(--steam)" strokeWidth="2" />
      {[first, last].map((moment, place) => (
        <text
          key={moment}
          x={x(moment)}
          y={HEIGHT - 6}
          textAnchor={place ? "end" : "start"}
          fontSize="12"
          fill="currentColor"
        >
          {hands.format(moment)}
        </text>
      ))}
      <text x={LEFT - 6} y={HEIGHT - 6} textAnchor="end" fontSize="12" fill="currentColor">
        {unit}
      </text>
    </svg>
  );
}
