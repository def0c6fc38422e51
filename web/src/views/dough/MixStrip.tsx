/** The minutes of mixing: speeds as a strip, and what goes in when. */
import type { Card } from "../../api/client";
import { useWidth } from "../../ui/useWidth";

const TOP = 22;
const BAR = 30;
const SHADES = ["var(--crumb)", "var(--dough-1)"];

export function MixStrip({ card }: { card: Card }) {
  const [element, measured] = useWidth<HTMLDivElement>(600);
  const width = Math.max(200, measured);
  const total = card.phases.reduce((sum, phase) => sum + phase.minutes, 0);
  const x = (minute: number) => (minute / total) * (width - 24) + 2;
  let passed = 0;
  const phases = card.phases.map((phase) => {
    const from = passed;
    passed += phase.minutes;
    return { ...phase, from, to: passed };
  });
  const additions = new Map<number, string[]>();
  for (const line of card.ingredients) {
    const names = additions.get(line.at_min) ?? [];
    additions.set(line.at_min, [...names, line.name]);
  }
  const marks = [...additions].sort(([a], [b]) => a - b);
  const ticks = Array.from({ length: Math.floor(total / 2) + 1 }, (_, index) => index * 2);
  return (
    <div ref={element} className="mt-4">
      <svg width={width} height={TOP + BAR + 20} role="img" aria-label={spoken(marks)} className="text-ink">
        {phases.map((phase) => (
          <g key={phase.from}>
            <rect
              x={x(phase.from)}
              y={TOP}
              width={x(phase.to) - x(phase.from)}
              height={BAR}
              fill={SHADES[phase.speed === "fast" ? 1 : 0]}
              stroke="var(--paper)"
              strokeWidth="2"
            />
            <text x={(x(phase.from) + x(phase.to)) / 2} y={TOP + BAR / 2 + 5} fontSize="14" textAnchor="middle">
              {phase.speed} {phase.minutes} min
            </text>
          </g>
        ))}
        {marks.map(([minute, names]) => (
          <g key={minute}>
            <line x1={x(minute)} x2={x(minute)} y1={TOP - 8} y2={TOP + BAR} stroke="var(--crust)" strokeWidth="2.5" />
            <text
              x={x(minute) + (minute > total * 0.6 ? -5 : 5)}
              y={TOP - 6}
              fontSize="12"
              fontWeight="700"
              textAnchor={minute > total * 0.6 ? "end" : "start"}
            >
              {minute === 0 ? "all the rest" : names.join(", ")}
            </text>
          </g>
        ))}
        {ticks.map((minute) => (
          <text
            key={minute}
            x={x(minute)}
            y={TOP + BAR + 15}
            fontSize="12"
            textAnchor={minute ? "middle" : "start"}
            className="text-ink-2"
          >
            {minute}
          </text>
        ))}
      </svg>
    </div>
  );
}

const spoken = (marks: [number, string[]][]) =>
  `Goes in: ${marks.map(([minute, names]) => `at minute ${minute} ${names.join(", ")}`).join("; ")}`;
