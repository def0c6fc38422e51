/** A line as a strip of gates: each opening as wide as the station's capacity, the pace a band through all. */
import type { LineBalance } from "../api/client";
import { percent, whole } from "../app/format";
import { CrumbPatterns } from "./dough";

const HEIGHT = 300;
const LEAD = 118;
const EDGE = 12;
const ROOMY = 62;
const SHOWN_TIMES_LEAST = 1.55;

type Stage = LineBalance["stages"][number];
type Props = {
  balance: LineBalance;
  pieces: string;
  width: number;
  height?: number;
  selected: string | undefined;
  onSelect: (station: string) => void;
};

export function GateStrip({ balance, pieces, width, height = HEIGHT, selected, onSelect }: Props) {
  const middle = height / 2;
  const widest = middle - EDGE;
  const { stages, pace_per_h: pace, bottleneck } = balance;
  const least = Math.min(...stages.map((stage) => stage.capacity_per_h));
  const full = Math.max(pace * 1.08, least * SHOWN_TIMES_LEAST);
  const half = (perHour: number) => (Math.min(perHour, full) / full) * widest;
  const cell = (width - LEAD - 12) / stages.length;
  const lip = Math.min(14, cell * 0.14);
  const edges = (sign: 1 | -1) =>
    stages.flatMap((stage, index) => {
      const left = LEAD + index * cell;
      const y = middle + sign * half(stage.capacity_per_h);
      const from = index === 0 ? 12 : left + lip;
      const to = index === stages.length - 1 ? width : left + cell - lip;
      return [`${from},${y}`, `${to},${y}`];
    });
  const wall = (sign: 1 | -1) => {
    const outer = middle + sign * (widest + EDGE);
    const points = edges(sign);
    return `12,${outer} ${points.join(" ")} ${width},${outer}`;
  };
  const over = pace > least * 1.0005;
  return (
    // biome-ignore lint/a11y/useSemanticElements: a drawing with parts to choose, not a form
    <svg width={width} height={height} role="group" aria-label="Capacity of each station" className="block text-ink">
      <CrumbPatterns />
      {([1, -1] as const).map((sign) => (
        <g key={sign}>
          <polygon points={wall(sign)} fill="var(--ground)" />
          <polygon points={wall(sign)} fill="url(#shut)" />
          <polyline points={edges(sign).join(" ")} fill="none" stroke="var(--ink-2)" strokeWidth="1.5" />
        </g>
      ))}
      <rect
        x={12}
        y={middle - half(pace)}
        width={width - 12}
        height={half(pace) * 2}
        fill="var(--dough-1)"
        fillOpacity="0.8"
        stroke="var(--crust)"
        strokeDasharray={over ? "5 4" : undefined}
      />
      <text x={22} y={middle - 5} fontSize="21" fontWeight="800">
        {whole(pace)}
      </text>
      <text x={22} y={middle + 10} fontSize="12">
        {pieces}
      </text>
      <text x={22} y={middle + 24} fontSize="12">
        an hour →
      </text>
      {stages.map((stage, index) => (
        <Gate
          key={stage.station}
          stage={stage}
          left={LEAD + index * cell}
          cell={cell}
          height={height}
          opening={half(stage.capacity_per_h)}
          cut={stage.capacity_per_h > full}
          narrowest={stage.station === bottleneck}
          over={pace > stage.capacity_per_h * 1.0005}
          selected={stage.station === selected}
          onSelect={onSelect}
        />
      ))}
    </svg>
  );
}

type GateProps = {
  stage: Stage;
  left: number;
  cell: number;
  height: number;
  opening: number;
  cut: boolean;
  narrowest: boolean;
  over: boolean;
  selected: boolean;
  onSelect: (station: string) => void;
};

function Gate({ stage, left, cell, height, opening, cut, narrowest, over, selected, onSelect }: GateProps) {
  const centre = left + cell / 2;
  const middle = height / 2;
  const roomy = cell > ROOMY;
  const loud = narrowest || over;
  const words = `${stage.name}: ${whole(stage.capacity_per_h)} an hour, ${percent(stage.utilisation)} used`;
  return (
    <>
      {/* biome-ignore lint/a11y/useSemanticElements: a shape of the drawing that can be chosen like a button */}
      <g
        role="button"
        tabIndex={0}
        aria-pressed={selected}
        aria-label={narrowest ? `${words}, the bottleneck` : words}
        data-station={stage.station}
        className="cursor-pointer"
        onClick={() => onSelect(stage.station)}
        onKeyDown={(event) => event.key === "Enter" && onSelect(stage.station)}
      >
        <rect
          x={left}
          y={0}
          width={cell}
          height={height}
          fill={selected ? "var(--trail)" : "transparent"}
          opacity="0.16"
        />
        {loud &&
          [1, -1].map((sign) => (
            <line
              key={sign}
              x1={left + cell * 0.1}
              x2={left + cell * 0.9}
              y1={middle + sign * opening}
              y2={middle + sign * opening}
              stroke="var(--ember)"
              strokeWidth="4"
            />
          ))}
      </g>
      <g pointerEvents="none" textAnchor="middle">
        <text
          x={centre}
          y={middle - 4}
          fontSize={roomy ? 14 : 12.5}
          fontWeight="700"
          className={loud ? "text-ember" : ""}
        >
          {percent(stage.utilisation)}
        </text>
        <text x={centre} y={middle + 13} fontSize={12}>
          {roomy && "of "}
          {whole(stage.capacity_per_h)}
        </text>
        {cut && roomy && (
          <text x={centre} y={27} fontSize="12" className="text-ink-2">
            wider still
          </text>
        )}
        {narrowest && (
          <text x={centre} y={height - 12} fontSize="12" fontWeight="700" className="text-ember">
            bottleneck
          </text>
        )}
      </g>
    </>
  );
}
