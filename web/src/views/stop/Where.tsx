/** What is where when a station stands, and until when it is good: a bar each on one clock. */
import { scaleLinear } from "d3-scale";
import type { Schemas } from "../../api/client";
import { type Clock, whole } from "../../app/format";
import { useWidth } from "../../ui/useWidth";

type Props = {
  trouble: Schemas["TroubleView"];
  now: number;
  clock: Clock;
  stationOf: (id: string) => string;
  productOf: (id: string) => string;
};

const [ROW, NAME, TOP, BOTTOM] = [30, 250, 22, 22];
const [SHOWN_MIN, LONGEST_MIN, ROOM_MIN] = [60, 180, 10];

export function Where({ trouble: { effect, runs_out }, now, clock, stationOf, productOf }: Props) {
  const [box, width] = useWidth<HTMLDivElement>(800);
  const { stop } = effect;
  const ends = effect.stretches.flatMap((one) =>
    one.spoils_after_min == null ? [] : [stop.from_min + one.spoils_after_min],
  );
  const lastEnd = Math.min(stop.from_min + LONGEST_MIN, Math.max(...ends, 0));
  const shown = Math.max(now, stop.from_min + stop.likely_min, lastEnd) + ROOM_MIN;
  const x = scaleLinear(
    [stop.from_min, Math.max(shown, stop.from_min + SHOWN_MIN)],
    [NAME, Math.max(NAME + 100, width - 12)],
  );
  const [from, until] = x.domain() as [number, number];
  const rows = [
    ...effect.stretches.map((one) => ({
      key: `${one.run} ${one.what} ${one.station} ${one.batch ?? ""}`,
      name:
        one.what === "pieces"
          ? stationOf(one.station)
          : `${one.what === "dough" ? "Dough" : "Filling"}, batch ${one.batch}`,
      of: `${one.run} ${productOf(one.product)}`,
      much: one.pieces ? whole(one.pieces) : `${whole(one.kg)} kg`,
      good: one.spoils_after_min == null ? undefined : stop.from_min + one.spoils_after_min,
      out: false,
    })),
    ...runs_out.map((one) => ({
      key: `out ${one.run} ${one.station}`,
      name: stationOf(one.station),
      of: `${one.run} ${productOf(one.product)}`,
      much: whole(one.pieces),
      good: one.until_min,
      out: true,
    })),
  ];
  const height = TOP + rows.length * ROW + BOTTOM;
  const lost = (minute: number) => x(Math.min(until, Math.max(from, minute)));
  return (
    <div ref={box}>
      {width > 0 && (
        <svg width={width} height={height} role="img" aria-label="What is where, and until when it is good">
          <defs>
            <pattern id="lost" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
              <path d="M0 0V7" className="stroke-ember/60" strokeWidth="2" />
            </pattern>
          </defs>
          {clock.ticks(from, until, until - from > 120 ? 30 : 15).map((minute) => (
            <g key={minute}>
              <path d={`M${x(minute)} ${TOP - 4}V${height - BOTTOM}`} className="stroke-rule" />
              <text x={x(minute)} y={13} fontSize="12" textAnchor="middle" className="text-ink-2">
                {clock.time(minute)}
              </text>
            </g>
          ))}
          {rows.map((row, place) => {
            const y = TOP + place * ROW;
            const end = row.good === undefined ? x(until) : lost(row.good);
            return (
              <g key={row.key}>
                <text x={0} y={y + 13} fontSize="13" fontWeight="600">
                  {row.name}
                </text>
                <text x={0} y={y + 26} fontSize="12" className="text-ink-2">
                  {row.of}
                </text>
                <text x={NAME - 8} y={y + 18} fontSize="12" textAnchor="end" className="text-ink-2">
                  {row.much}
                </text>
                <rect
                  x={x(from)}
                  y={y + 4}
                  width={Math.max(0, end - x(from))}
                  height={18}
                  className={row.out ? "fill-steam/20 stroke-steam" : "fill-crumb stroke-crust"}
                />
                {!row.out && row.good !== undefined && (
                  <rect x={end} y={y + 4} width={Math.max(0, x(until) - end)} height={18} fill="url(#lost)" />
                )}
                <text
                  x={Math.min(end + 5, x(until) - 120)}
                  y={y + 17}
                  fontSize="12"
                  paintOrder="stroke"
                  stroke="var(--paper)"
                  strokeWidth="4"
                  className={row.out || row.good === undefined ? "text-ink-2" : "font-semibold text-ember"}
                >
                  {row.out
                    ? "runs out as it should"
                    : row.good === undefined
                      ? ""
                      : `lost after ${clock.time(row.good)}`}
                </text>
              </g>
            );
          })}
          <Mark at={x(now)} height={height} words="now" look="stroke-steam text-steam" />
          <Mark
            at={x(stop.from_min + stop.likely_min)}
            height={height}
            words="likely end"
            look="stroke-ink text-ink"
            dashed
          />
        </svg>
      )}
    </div>
  );
}

function Mark({
  at,
  height,
  words,
  look,
  dashed = false,
}: {
  at: number;
  height: number;
  words: string;
  look: string;
  dashed?: boolean;
}) {
  return (
    <g className={look}>
      <path
        d={`M${at} ${TOP - 4}V${height - BOTTOM + 4}`}
        strokeWidth="2"
        strokeDasharray={dashed ? "5 4" : undefined}
      />
      <text x={at} y={height - 4} fontSize="12" textAnchor="middle" stroke="none">
        {words}
      </text>
    </g>
  );
}
