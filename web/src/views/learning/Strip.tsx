/** What was observed as dots, the interval of what was learnt, and what the library says. */
import type { Lesson } from "./kinds";

const WIDTH = 220;
const HEIGHT = 30;

export function Strip({ lesson }: { lesson: Lesson }) {
  const { estimate, said } = lesson;
  const dots = lesson.shown.filter((one) => !one.held_out).map((one) => one.value);
  const figures = [estimate.low, estimate.high, ...(said == null ? [] : [said]), ...dots];
  const around = (Math.max(...figures) - Math.min(...figures)) / 8;
  const [least, most] = [Math.min(...figures) - around, Math.max(...figures) + around];
  const x = (value: number) => 6 + ((value - least) / Math.max(1e-12, most - least)) * (WIDTH - 12);
  return (
    <svg aria-hidden="true" viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="h-[30px] w-full min-w-40 max-w-64">
      <line x1={6} x2={WIDTH - 6} y1={HEIGHT / 2} y2={HEIGHT / 2} className="stroke-rule" />
      <rect
        x={x(estimate.low)}
        width={Math.max(2, x(estimate.high) - x(estimate.low))}
        y={HEIGHT / 2 - 5}
        height={10}
        rx={2}
        className="fill-steam/35 stroke-steam"
      />
      {lesson.shown.map((one) => (
        <circle
          key={`${one.at} ${one.value}`}
          cx={Math.min(WIDTH - 3, Math.max(3, x(one.value)))}
          cy={HEIGHT / 2}
          r={2.2}
          className={one.held_out ? "fill-none stroke-muted" : "fill-trail/70"}
        />
      ))}
      {said != null && (
        <line x1={x(said)} x2={x(said)} y1={2} y2={HEIGHT - 2} className="stroke-2 stroke-ink" strokeDasharray="3 2" />
      )}
    </svg>
  );
}
