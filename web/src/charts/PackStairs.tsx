/** Packs made against packs due, under the ribbons and on the same clock. */
import { scaleLinear } from "d3-scale";
import { area, curveStepAfter, line } from "d3-shape";
import { useId } from "react";
import type { PlanView } from "../api/client";
import { whole } from "../app/format";
import { LABELS } from "./RibbonChart";
import { type Span, timeScale } from "./timeScale";

const HEIGHT = 118;
const TOP = 14;
const FLOOR = HEIGHT - 20;
const LETTER = 7;

type Corner = { minute: number; packs: number };
type Props = {
  view: PlanView;
  waves: { id: string; name: string; departs_min: number }[];
  span: Span;
  width: number;
};

export function PackStairs({ view, waves, span, width }: Props) {
  const clip = useId();
  const x = timeScale(span, LABELS, width - 8);
  const { made, due, from_min, to_min } = view.timeline;
  const last = Math.max(to_min, span[1], ...due.map((step) => step.minute));
  const most = Math.max(made.at(-1)?.packs ?? 0, due.at(-1)?.packs ?? 0, 1);
  const y = scaleLinear().domain([0, most]).nice(3).range([FLOOR, TOP]);
  const curve: Corner[] = [
    { minute: Math.min(from_min, span[0]), packs: 0 },
    ...made,
    { minute: last, packs: made.at(-1)?.packs ?? 0 },
  ];
  const stairs: Corner[] = [
    { minute: Math.min(from_min, span[0]), packs: 0 },
    ...due,
    { minute: last, packs: due.at(-1)?.packs ?? 0 },
  ];
  const across = (corner: Corner) => x(corner.minute);
  const up = (corner: Corner) => y(corner.packs);
  return (
    <svg width={width} height={HEIGHT} role="img" aria-label="Packs made against packs due" className="block text-ink">
      <clipPath id={clip}>
        <rect x={LABELS} y={0} width={Math.max(0, width - LABELS - 8)} height={HEIGHT} />
      </clipPath>
      <g fontSize="12">
        <line x1={12} x2={30} y1={TOP + 9} y2={TOP + 9} stroke="var(--steam)" strokeWidth="2.5" />
        <text x={36} y={TOP + 13}>
          Packs made
        </text>
        <line x1={12} x2={30} y1={TOP + 29} y2={TOP + 29} stroke="currentColor" strokeWidth="2" strokeDasharray="4 3" />
        <text x={36} y={TOP + 33}>
          Packs due
        </text>
      </g>
      {y.ticks(3).map((packs) => (
        <g key={packs} className="text-ink-2">
          <line x1={LABELS} x2={width - 8} y1={y(packs)} y2={y(packs)} stroke="var(--rule)" />
          <text x={LABELS - 8} y={y(packs) + 4} fontSize="12" textAnchor="end">
            {whole(packs)}
          </text>
        </g>
      ))}
      <g clipPath={`url(#${clip})`}>
        <path d={area<Corner>(across, y(0), up)(curve) ?? ""} fill="var(--steam)" opacity="0.14" />
        <path d={line<Corner>(across, up)(curve) ?? ""} fill="none" stroke="var(--steam)" strokeWidth="2.5" />
        <path
          d={line<Corner>(across, up).curve(curveStepAfter)(stairs) ?? ""}
          fill="none"
          stroke="currentColor"
          strokeWidth="2"
          strokeDasharray="4 3"
        />
        {waves.map((wave, index) => {
          const before = waves[index - 1];
          const room =
            before === undefined ? x(wave.departs_min) - LABELS : x(wave.departs_min) - x(before.departs_min);
          return <WaveFoot key={wave.id} {...{ wave, room }} x={x(wave.departs_min)} short={shortOf(view, wave.id)} />;
        })}
      </g>
    </svg>
  );
}

const shortOf = (view: PlanView, wave: string) =>
  view.plan.waves.filter((outcome) => outcome.wave === wave).reduce((sum, outcome) => sum + outcome.short, 0);

type FootProps = { wave: { name: string }; x: number; room: number; short: number };

/** A lorry where it leaves: its name and what it misses, as far as there is room for them behind the one before. */
function WaveFoot({ wave, x, room, short }: FootProps) {
  const fitting = (...texts: string[]) => texts.find((text) => room > text.length * LETTER) ?? "";
  const missed = `${whole(short)} short`;
  const mark = short > 0 ? "var(--ember)" : "currentColor";
  return (
    <g fontSize="12" fontWeight="700" textAnchor="end">
      <title>{short > 0 ? `${wave.name}: ${missed}` : wave.name}</title>
      <line x1={x} x2={x} y1={FLOOR} y2={FLOOR + 8} stroke={mark} strokeWidth="2" />
      <text x={x - 4} y={FLOOR + 15}>
        {fitting(wave.name)}
      </text>
      {short > 0 && (
        <text x={x - 4} y={TOP + 10} className="text-ember" stroke="var(--paper)" strokeWidth="4" paintOrder="stroke">
          {fitting(missed, whole(short))}
        </text>
      )}
    </g>
  );
}
