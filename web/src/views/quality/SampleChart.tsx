/** Samples as a chart: means between their limits, what breaks a rule marked by shape too. */
import { scaleLinear } from "d3-scale";
import { line } from "d3-shape";
import type { Schemas } from "../../api/client";
import { useWindowView } from "../planningWindow";

type Chart = Schemas["ControlChart"];

const [WIDTH, HEIGHT, LEFT, RIGHT, EDGE] = [560, 150, 8, 86, 10];

type Props = {
  chart: Chart;
  target: number | null;
  unit: string;
  figure: (value: number, decimals?: number) => string;
};

export function SampleChart({ chart, target, unit, figure }: Props) {
  const { clock } = useWindowView();
  const { points } = chart;
  const values = [...points.map((point) => point.mean), chart.lower, chart.upper, ...(target == null ? [] : [target])];
  const across = scaleLinear([0, Math.max(1, points.length - 1)], [LEFT + EDGE, WIDTH - RIGHT - EDGE]);
  const down = scaleLinear([Math.min(...values), Math.max(...values)], [HEIGHT - EDGE - 14, EDGE]);
  const path = line<Chart["points"][number]>(
    (_, place) => across(place),
    (point) => down(point.mean),
  )(points as Chart["points"][number][]);
  const marks = [
    { at: chart.upper, name: "upper limit", dash: "4 3", tone: "stroke-ember" },
    { at: chart.lower, name: "lower limit", dash: "4 3", tone: "stroke-ember" },
    { at: chart.centre, name: "mean", dash: undefined, tone: "stroke-trail" },
  ];
  const first = points[0];
  const last = points.at(-1);
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="mt-2 w-full"
      role="img"
      aria-label={`${points.length} samples from ${figure(Math.min(...points.map((point) => point.mean)), 2)} to ${figure(
        Math.max(...points.map((point) => point.mean)),
        2,
      )} ${unit}; limits ${figure(chart.lower, 2)} and ${figure(chart.upper, 2)} ${unit}`}
    >
      {marks.map((mark) => (
        <g key={mark.name}>
          <line
            x1={LEFT}
            x2={WIDTH - RIGHT}
            y1={down(mark.at)}
            y2={down(mark.at)}
            className={mark.tone}
            strokeDasharray={mark.dash}
          />
          <text x={WIDTH - RIGHT + 6} y={down(mark.at) + 4} className="fill-ink-2 text-[12px]">
            {figure(mark.at, 2)} {mark.name === "mean" ? "" : mark.name.slice(0, 2) === "up" ? "▲" : "▼"}
          </text>
        </g>
      ))}
      {target != null && (
        <line
          x1={LEFT}
          x2={WIDTH - RIGHT}
          y1={down(target)}
          y2={down(target)}
          className="stroke-steam"
          strokeDasharray="1 4"
          strokeLinecap="round"
          strokeWidth={2}
        />
      )}
      <path d={path ?? ""} fill="none" className="stroke-ink-2" strokeWidth={1.2} />
      {points.map((point, place) =>
        point.broken.length > 0 ? (
          <rect
            key={`${point.at_min} ${place.toString()}`}
            x={across(place) - 4}
            y={down(point.mean) - 4}
            width={8}
            height={8}
            transform={`rotate(45 ${across(place)} ${down(point.mean)})`}
            className="fill-ember"
          >
            <title>{`${clock.moment(point.at_min)}: ${figure(point.mean, 2)} ${unit}, ${point.broken.join("; ")}`}</title>
          </rect>
        ) : (
          <circle
            key={`${point.at_min} ${place.toString()}`}
            cx={across(place)}
            cy={down(point.mean)}
            r={3}
            className="fill-paper stroke-ink-2"
          >
            <title>{`${clock.moment(point.at_min)}: ${figure(point.mean, 2)} ${unit}`}</title>
          </circle>
        ),
      )}
      {first && last && (
        <>
          <text x={LEFT} y={HEIGHT - 2} className="fill-ink-2 text-[12px]">
            {clock.moment(first.at_min)}
          </text>
          <text x={WIDTH - RIGHT} y={HEIGHT - 2} textAnchor="end" className="fill-ink-2 text-[12px]">
            {clock.moment(last.at_min)}
          </text>
        </>
      )}
    </svg>
  );
}
