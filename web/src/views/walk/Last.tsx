/** What was found last at a check, between its limits. */
import { scaleLinear } from "d3-scale";
import { line } from "d3-shape";
import type { Clock } from "../../app/format";
import { useUnits } from "../../app/units";
import type { Check, Due } from "./due";

const [WIDTH, HEIGHT, EDGE] = [230, 62, 8];

export function Last({ check, due, clock }: { check: Check; due: Due; clock: Clock }) {
  const units = useUnits();
  const points = check.last.map((find) => find.measured.reduce((sum, one) => sum + one, 0) / find.measured.length);
  const first = check.last[0];
  const last = check.last.at(-1);
  if (!first || !last || points.some((point) => !Number.isFinite(point)))
    return <p className="text-ink-2">Nothing yet.</p>;
  const ends = [...points, due.low ?? points[0] ?? 0, due.high ?? points[0] ?? 0];
  const x = scaleLinear([0, Math.max(1, points.length - 1)], [EDGE, WIDTH - EDGE]);
  const y = scaleLinear([Math.min(...ends), Math.max(...ends)], [HEIGHT - EDGE, EDGE]);
  const figure = (value: number) => `${units.shown(value, check.quantity)}`;
  const path = line<number>((_, place) => x(place), y)(points) ?? "";
  return (
    <figure>
      <svg
        viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
        className="w-full max-w-[16rem]"
        role="img"
        aria-label={`The last ${points.length}: ${points.map(figure).join(", ")} ${units.name(check.quantity, check.unit)}`}
      >
        {due.low != null && due.high != null && (
          <rect x={0} y={y(due.high)} width={WIDTH} height={y(due.low) - y(due.high)} className="fill-steam/10" />
        )}
        {[due.low, due.high].map(
          (limit, place) =>
            limit != null && (
              <path
                key={place === 0 ? "low" : "high"}
                d={`M0 ${y(limit)}H${WIDTH}`}
                className="stroke-steam"
                strokeDasharray="4 3"
                fill="none"
              />
            ),
        )}
        <path d={path} className="stroke-ink-2" strokeWidth="1.5" fill="none" />
        {points.map((point, place) => (
          <circle
            // biome-ignore lint/suspicious/noArrayIndexKey: they are in the order of the clock, and nothing else tells them apart
            key={place}
            cx={x(place)}
            cy={y(point)}
            r={3.5}
            className={check.last[place]?.good ? "fill-ink-2" : "fill-ember"}
          />
        ))}
      </svg>
      <figcaption className="text-ink-2 text-sm">
        last {points.length}, {clock.time(first.at_min)} to {clock.time(last.at_min)}; {figure(points.at(-1) ?? 0)} at
        last
      </figcaption>
    </figure>
  );
}
