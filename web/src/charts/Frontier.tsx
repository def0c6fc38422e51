/** What sureness costs: plans by their odds and by what they cost more, the best of them joined. */
import { scaleLinear } from "d3-scale";
import { line } from "d3-shape";
import { percent, whole } from "../app/format";

export type FrontierPoint = { number: number; odds: number; more: number; best: boolean };
type Props = {
  points: FrontierPoint[];
  wished: number;
  width: number;
  shown: number;
  onShow: (number: number) => void;
};

const HEIGHT = 170;
const TOP = 22;
const FLOOR = HEIGHT - 26;
const SIDE = 40;

/** So wide is what stands above a point. */
const LABEL = 44;

export function Frontier({ points, wished, width, shown, onShow }: Props) {
  const best = points.filter((point) => point.best).sort((a, b) => a.odds - b.odds);
  const lowest = Math.min(wished, ...points.map((point) => point.odds));
  const highest = Math.max(wished, ...points.map((point) => point.odds));
  const x = scaleLinear()
    .domain([lowest, highest])
    .nice(5)
    .range([SIDE, width - SIDE]);
  const dearest = Math.max(1, ...best.map((point) => point.more));
  const y = scaleLinear().domain([0, dearest]).range([FLOOR, TOP]);
  const named = new Set<number>();
  let until = Number.NEGATIVE_INFINITY;
  for (const point of best)
    if (x(point.odds) - until > LABEL) {
      named.add(point.number);
      until = x(point.odds);
    }
  const drawn = points.filter((point) => point.best || point.more <= dearest);
  return (
    <svg width={width} height={HEIGHT} role="img" aria-label="What sureness costs" className="block text-ink">
      {x.ticks(5).map((odds) => (
        <text key={odds} x={x(odds)} y={HEIGHT - 6} fontSize="12" textAnchor="middle" className="fill-ink-2">
          {percent(odds)}
        </text>
      ))}
      <line x1={SIDE} x2={width - SIDE} y1={FLOOR} y2={FLOOR} stroke="var(--rule)" />
      <line x1={x(wished)} x2={x(wished)} y1={TOP - 8} y2={FLOOR} stroke="currentColor" strokeDasharray="4 3" />
      <path
        d={
          line<FrontierPoint>(
            (point) => x(point.odds),
            (point) => y(point.more),
          )(best) ?? ""
        }
        fill="none"
        stroke="var(--crust)"
        strokeWidth="2"
      />
      {drawn.map((point) => (
        // biome-ignore lint/a11y/noStaticElementInteractions: the table beside it does the same by keyboard
        <g key={point.number} onClick={() => onShow(point.number)} className="cursor-pointer">
          <circle
            cx={x(point.odds)}
            cy={y(point.more)}
            r={point.number === shown ? 8 : 5}
            fill={point.number === shown ? "var(--crust)" : "var(--paper)"}
            stroke="var(--crust)"
            strokeWidth="2"
            opacity={point.best ? 1 : 0.4}
          />
          {named.has(point.number) && (
            <text x={x(point.odds)} y={y(point.more) - 12} fontSize="12" textAnchor="middle">
              +{whole(point.more)}
            </text>
          )}
        </g>
      ))}
    </svg>
  );
}
