/** Packs made over a thousand days, as bands around the middle one, against the packs owed. */
import { scaleLinear } from "d3-scale";
import { area, curveStepAfter, line } from "d3-shape";
import type { Schemas } from "../api/client";
import { percent, whole } from "../app/format";
import { type Span, tickStep, timeScale } from "./timeScale";

type Point = Schemas["CurvePoint"];
type Lorry = { wave: string; name: string; loaded_by_min: number; odds: number };
type Props = { curve: Point[]; lorries: Lorry[]; width: number; time: (minute: number) => string };

const HEIGHT = 300;
const TOP = 34;
const FLOOR = HEIGHT - 26;
const LEFT = 58;
const RIGHT = 14;

/** From which to which quantile each band goes, the widest first. */
const BANDS = [
  [0, 6],
  [1, 5],
  [2, 4],
] as const;
const MIDDLE = 3;

/** So wide is a letter above the lorries. */
const LETTER = 7;

export function PackBands({ curve, lorries, width, time }: Props) {
  const first = curve[0];
  const last = curve.at(-1);
  if (!first || !last) return null;
  const span: Span = [first.minute, last.minute];
  const x = timeScale(span, LEFT, width - RIGHT);
  const most = Math.max(1, last.owed, ...curve.map((point) => point.packs.at(-1) ?? 0));
  const y = scaleLinear().domain([0, most]).nice(4).range([FLOOR, TOP]);
  const step = tickStep(span, width - LEFT);
  const ticks: number[] = [];
  for (let minute = Math.ceil(span[0] / step) * step; minute <= span[1]; minute += step) ticks.push(minute);
  const at = (quantile: number) => (point: Point) => y(point.packs[quantile] ?? 0);
  const across = (point: Point) => x(point.minute);
  let named = 0;
  return (
    <svg
      width={width}
      height={HEIGHT}
      role="img"
      aria-label="Packs made on a thousand days against packs owed"
      className="block text-ink"
    >
      {y.ticks(4).map((packs) => (
        <g key={packs} className="text-ink-2">
          <line x1={LEFT} x2={width - RIGHT} y1={y(packs)} y2={y(packs)} stroke="var(--rule)" />
          <text x={LEFT - 8} y={y(packs) + 4} fontSize="12" textAnchor="end">
            {whole(packs)}
          </text>
        </g>
      ))}
      {ticks.map((minute) => (
        <text key={minute} x={x(minute)} y={FLOOR + 18} fontSize="12" textAnchor="middle" className="text-ink-2">
          {time(minute)}
        </text>
      ))}
      {BANDS.map(([from, to]) => (
        <path
          key={from}
          d={area<Point>(across, at(from), at(to))(curve) ?? ""}
          fill="var(--steam)"
          opacity={0.14 + from * 0.1}
        />
      ))}
      <path d={line<Point>(across, at(MIDDLE))(curve) ?? ""} fill="none" stroke="var(--steam)" strokeWidth="2.5" />
      <path
        d={line<Point>(across, (point) => y(point.owed)).curve(curveStepAfter)(curve) ?? ""}
        fill="none"
        stroke="currentColor"
        strokeWidth="2"
        strokeDasharray="4 3"
      />
      {lorries.map((lorry) => {
        const place = x(lorry.loaded_by_min);
        const odds = percent(lorry.odds);
        const room = (place - named) / LETTER;
        const said = [`${lorry.name} ${odds}`, odds].find((text) => text.length + 1 < room);
        if (said) named = place;
        return (
          <g key={lorry.wave} fontSize="12" textAnchor="end">
            <title>{`${lorry.name}: ${odds}`}</title>
            <line x1={place} x2={place} y1={TOP - 8} y2={FLOOR} stroke="var(--rule)" />
            {said && (
              <text x={place + 2} y={TOP - 12}>
                {said}
              </text>
            )}
          </g>
        );
      })}
    </svg>
  );
}
