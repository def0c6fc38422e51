/** The plan as ribbons: time runs across, the stations run down in walking order. */
import { type PointerEvent, type ReactNode, useEffect, useId, useMemo, useRef } from "react";
import type { Meeting, PlanView, Run, Timeline } from "../api/client";
import type { Clock } from "../app/format";
import { plural } from "../app/format";
import { CrumbPatterns, tone } from "./dough";
import { type Span, type TimeScale, tickStep, timeScale } from "./timeScale";

export const LABELS = 164;
const AXIS = 30;
const THIN_ROW = 22;
const NARROW_ROW = 17;
const MANY_ROWS = 13;
const DISPATCH_ROW = 22;
const BELTS_LEAST = 190;

type ChartRow = Timeline["rows"][number] & { top: number; bottom: number };
type Ribbon = Timeline["ribbons"][number];

const isDwell = (row: Timeline["rows"][number]) =>
  row.kind === "conveyor" || row.kind === "chamber" || row.kind === "held";
const isDoughRoom = (row: Timeline["rows"][number]) => row.kind === "batch" || row.kind === "trough";

/** Rows with their heights: belts share what mixers and machines leave, the longer dwell the taller. */
function layOut(rows: Timeline["rows"], height: number): ChartRow[] {
  const thin = rows.length > MANY_ROWS ? NARROW_ROW : THIN_ROW;
  const root = (row: Timeline["rows"][number]) => Math.sqrt(row.dwell_min);
  const belts = rows.filter(isDwell);
  const weight = belts.reduce((sum, row) => sum + root(row), 0) || 1;
  const left = height - AXIS - DISPATCH_ROW - thin * (rows.length - belts.length);
  const shared = Math.max(BELTS_LEAST, left) - thin * belts.length;
  let top = AXIS;
  return rows.map((row) => {
    const own = isDwell(row) ? (Math.max(0, shared) * root(row)) / weight : 0;
    const placed = { ...row, top, bottom: top + thin + own };
    top = placed.bottom;
    return placed;
  });
}

type Props = {
  view: PlanView;
  clock: Clock;
  names: Map<string, string>;
  tones: Map<string, number>;
  waves: { id: string; name: string; departs_min: number }[];
  span: Span;
  width: number;
  height: number;
  now: number;
  selected: string | undefined;
  onSelect: (run: string | undefined) => void;
  met: Meeting | undefined;
  onMeet: (meeting: Meeting | undefined) => void;
  onZoom: (factor: number, around: number) => void;
  onMove: (minutes: number) => void;
};

export function RibbonChart(props: Props) {
  const { view, clock, span, width } = props;
  const rows = useMemo(() => layOut(view.timeline.rows, props.height), [view, props.height]);
  const x = timeScale(span, LABELS, width - 8);
  const floor = rows.at(-1)?.bottom ?? AXIS;
  const bottom = floor + DISPATCH_ROW;
  const clip = useId();
  const gestures = useGestures(props, x);
  const runs = new Map(view.plan.runs.map((run) => [run.id, run]));

  return (
    // biome-ignore lint/a11y/useSemanticElements: a drawing with parts to choose, not a form
    <svg
      ref={gestures.ref}
      width={width}
      height={bottom + 4}
      role="group"
      aria-label="Ribbon chart: time across, stations down"
      className="block touch-pan-y select-none text-ink"
      {...gestures.handlers}
    >
      <CrumbPatterns />
      <clipPath id={clip}>
        <rect x={LABELS} y={0} width={Math.max(0, width - LABELS - 8)} height={bottom + 4} />
      </clipPath>
      <Grid rows={rows} clock={clock} span={span} x={x} width={width} bottom={bottom} />
      <g clipPath={`url(#${clip})`}>
        {view.timeline.ribbons.map((ribbon) => {
          const run = runs.get(ribbon.run);
          return (
            run && (
              <RibbonShape
                key={`${ribbon.run}-${ribbon.product}`}
                {...props}
                ribbon={ribbon}
                run={run}
                rows={rows}
                x={x}
              />
            )
          );
        })}
        {view.timeline.meetings.map((meeting) => (
          <MeetingMark key={meeting.then} {...props} meeting={meeting} rows={rows} x={x} />
        ))}
        {props.waves.map((wave) => (
          <path
            key={wave.id}
            d={`M${x(wave.departs_min)} ${floor + 2}V${bottom}m-6 -7l6 7l6 -7`}
            stroke="currentColor"
            strokeWidth="2.5"
            fill="none"
          />
        ))}
        {props.now > span[0] && props.now < span[1] && (
          <NowLine x={x(props.now)} text={clock.time(props.now)} bottom={bottom} />
        )}
      </g>
    </svg>
  );
}

type GridProps = { rows: ChartRow[]; clock: Clock; span: Span; x: TimeScale; width: number; bottom: number };

function Grid({ rows, clock, span, x, width, bottom }: GridProps) {
  return (
    <>
      {clock.ticks(span[0], span[1], tickStep(span, width - LABELS)).map((minute) => (
        <g key={minute} className="text-ink-2">
          <line x1={x(minute)} x2={x(minute)} y1={AXIS - 4} y2={bottom} stroke="var(--rule)" />
          <text x={x(minute)} y={AXIS - 10} textAnchor="middle" fontSize="12">
            {clock.time(minute) === "00:00" ? clock.date(minute).split(",")[0] : clock.time(minute)}
          </text>
        </g>
      ))}
      <text x={LABELS - 26} y={AXIS - 10} fontSize="11" textAnchor="end" className="text-ink-2">
        in use
      </text>
      {rows.map((row) => (
        <RowLabel key={row.station} top={row.top} bottom={row.bottom} width={width} name={row.name}>
          {Math.round(row.busy_share * 100)} %
        </RowLabel>
      ))}
      <RowLabel top={bottom - DISPATCH_ROW} bottom={bottom} width={width} name="Dispatch" />
    </>
  );
}

type LabelProps = { top: number; bottom: number; width: number; name: string; children?: ReactNode };

function RowLabel({ top, bottom, width, name, children }: LabelProps) {
  const middle = (top + bottom) / 2;
  return (
    <>
      <line x1={8} x2={width - 8} y1={bottom} y2={bottom} stroke="var(--rule)" />
      <circle cx={18} cy={middle} r={5} fill="var(--paper)" stroke="var(--trail)" strokeWidth="2" />
      <text x={31} y={middle + 4} fontSize={bottom - top < THIN_ROW ? 12 : 13}>
        {name}
      </text>
      <text x={LABELS - 8} y={middle + 4} fontSize="11" textAnchor="end" className="text-ink-2">
        {children}
      </text>
    </>
  );
}

type ShapeProps = Props & { ribbon: Ribbon; run: Run; rows: ChartRow[]; x: TimeScale };

function RibbonShape({ view, ribbon, run, rows, x, names, tones, selected, onSelect, clock }: ShapeProps) {
  const look = tone(tones.get(ribbon.product) ?? 0);
  const own = ribbon.product === run.product;
  const at = new Map(ribbon.stops.map((stop) => [stop.station, stop]));
  const left: string[] = [];
  const right: string[] = [];
  const skipped: ReactNode[] = [];
  const divider = rows.find((row) => row.station === ribbon.stops[0]?.station);
  let tallest: ChartRow | undefined;
  for (const row of rows) {
    const stop = at.get(row.station);
    if (stop) {
      left.push(`${x(stop.first_in)},${row.top}`, `${x(stop.first_out)},${row.bottom}`);
      right.push(`${x(stop.last_in)},${row.top}`, `${x(stop.last_out)},${row.bottom}`);
      if (!tallest || row.bottom - row.top > tallest.bottom - tallest.top) tallest = row;
    } else if (!isDoughRoom(row) && left.length) {
      const place = rows.indexOf(row);
      const before = rows.slice(0, place).findLast((other) => at.has(other.station));
      const after = rows.slice(place).find((other) => at.has(other.station));
      const [from, to] = [at.get(before?.station ?? ""), at.get(after?.station ?? "")];
      if (before && after && from && to) {
        const part = (y: number) => (y - before.bottom) / (after.top - before.bottom);
        const first = (y: number) => x(from.first_out + part(y) * (to.first_in - from.first_out));
        const last = (y: number) => x(from.last_out + part(y) * (to.last_in - from.last_out));
        const { top, bottom } = row;
        skipped.push(
          <polygon
            key={row.station}
            points={`${first(top)},${top} ${first(bottom)},${bottom} ${last(bottom)},${bottom} ${last(top)},${top}`}
            fill="var(--paper)"
            opacity="0.72"
          >
            <title>{`${run.id} passes ${row.name} by`}</title>
          </polygon>,
        );
      }
    }
  }
  const chosen = run.id === selected;
  const outline = [...left, ...right.reverse()].join(" ");
  const name = names.get(ribbon.product) ?? ribbon.product;
  if (left.length === 0) return null;
  return (
    <>
      {/* biome-ignore lint/a11y/useSemanticElements: a shape of the drawing that can be chosen like a button */}
      <g
        role="button"
        tabIndex={0}
        aria-pressed={chosen}
        aria-label={`${run.id} ${name}, ${plural(run.packs, "pack")}, first pack ${clock.time(run.first_pack_min)}, last pack ${clock.time(run.last_pack_min)}`}
        data-run={own ? run.id : undefined}
        className="cursor-pointer outline-offset-4"
        onClick={() => onSelect(chosen ? undefined : run.id)}
        onKeyDown={(event) => {
          if (event.key !== "Enter" && event.key !== " ") return;
          event.preventDefault();
          onSelect(chosen ? undefined : run.id);
        }}
      >
        {own && divider && <DoughRoom {...{ view, run, rows, x, look }} divider={divider} />}
        <polygon points={outline} fill={look.fill} fillOpacity="0.92" />
        {look.pattern && <polygon points={outline} fill={look.pattern} />}
        {skipped}
        <polygon
          points={outline}
          fill="none"
          stroke={look.edge}
          strokeWidth={chosen ? 3 : 1.2}
          strokeLinejoin="round"
        />
      </g>
      {tallest && <RibbonName row={tallest} ribbon={ribbon} run={run} name={name} x={x} />}
    </>
  );
}

type Look = ReturnType<typeof tone>;
type DoughRoomProps = { view: PlanView; run: Run; rows: ChartRow[]; x: TimeScale; look: Look; divider: ChartRow };

/** A run's doughs and preparations in their mixers and troughs, and each dough's way to the divider. */
function DoughRoom({ view, run, rows, x, look, divider }: DoughRoomProps) {
  const rowOf = (station: string) => rows.find((row) => row.station === station);
  const mixed = run.batches.flatMap((batch) => [batch, ...batch.preparations]);
  return (
    <>
      {view.timeline.holds
        .filter((hold) => hold.run === run.id)
        .map((hold) => {
          const row = rowOf(hold.station);
          if (!row) return null;
          return (
            <rect
              key={`${hold.station}-${hold.batch}`}
              x={x(hold.from_min)}
              y={row.top + 5}
              width={Math.max(1, x(hold.to_min) - x(hold.from_min))}
              height={row.bottom - row.top - 10}
              fill={look.fill}
              fillOpacity="0.55"
              stroke={look.edge}
              strokeWidth="0.6"
            />
          );
        })}
      {mixed.map((slot) => {
        const row = rowOf(slot.mixer);
        if (!row) return null;
        return (
          <rect
            key={`${slot.mixer}-${slot.start_min}`}
            x={x(slot.start_min)}
            y={row.top + 3}
            width={Math.max(1, x(slot.discharged_min) - x(slot.start_min))}
            height={row.bottom - row.top - 6}
            rx={3}
            fill={look.fill}
            stroke={look.edge}
          />
        );
      })}
      {run.batches.map((batch) => {
        const row = rowOf(batch.mixer);
        if (!row) return null;
        const [from, to] = [x(batch.discharged_min), x(batch.divided_min)];
        return (
          <path
            key={batch.number}
            d={`M${from} ${row.bottom - 4}C${to} ${row.bottom - 2} ${to} ${divider.top - 8} ${to} ${divider.top + 6}`}
            fill="none"
            stroke={look.edge}
            strokeWidth="1"
            opacity="0.6"
          />
        );
      })}
    </>
  );
}

type NameProps = { row: ChartRow; ribbon: Ribbon; run: Run; name: string; x: TimeScale };

function RibbonName({ row, ribbon, run, name, x }: NameProps) {
  const stop = ribbon.stops.find((found) => found.station === row.station);
  if (!stop) return null;
  const centre = (x(stop.first_in) + x(stop.last_out)) / 2;
  const room = x(stop.last_in) - x(stop.first_in);
  if (room < 20) return null;
  const packs = plural(run.packs, "pack");
  const lines = room > Math.max(name.length, packs.length) * 6.2 ? [run.id, name, packs] : [run.id];
  const middle = (row.top + row.bottom) / 2;
  return (
    <g pointerEvents="none" textAnchor="middle">
      {lines.map((text, index) => (
        <text
          key={text}
          x={centre}
          y={middle + 5 + (index - (lines.length - 1) / 2) * 15}
          fontSize={index ? 11.5 : 13.5}
          fontWeight={index ? 500 : 800}
        >
          {text}
        </text>
      ))}
    </g>
  );
}

type MarkProps = Props & { meeting: Meeting; rows: ChartRow[]; x: TimeScale };

/** Where two runs come closest: a bracket at that station, loud when it is pointed at. */
function MeetingMark({ meeting, rows, x, met, onMeet, selected }: MarkProps) {
  const row = rows.find((found) => found.station === meeting.station);
  if (!row) return null;
  const loud = met === meeting || selected === meeting.then;
  const needed = Math.min(meeting.to_min, meeting.from_min + meeting.needed_min);
  const [from, to, y] = [x(meeting.from_min), x(needed), row.top];
  const text = `${row.name}: ${Math.round(meeting.needed_min)} min between ${meeting.first} and ${meeting.then}`;
  return (
    // biome-ignore lint/a11y/noInteractiveElementToNoninteractiveRole: the bracket explains itself on focus as on hover
    <g
      role="img"
      aria-label={text}
      tabIndex={0}
      className="outline-none"
      onPointerEnter={() => onMeet(meeting)}
      onPointerLeave={() => onMeet(undefined)}
      onFocus={() => onMeet(meeting)}
      onBlur={() => onMeet(undefined)}
    >
      <rect x={from} y={y - 14} width={Math.max(2, to - from)} height={28} fill="transparent" />
      <path
        d={`M${from} ${y - 5}v10M${from} ${y}H${to}M${to} ${y - 5}v10`}
        stroke={loud ? "var(--ember)" : "var(--muted)"}
        strokeWidth={loud ? 3 : 1.5}
        fill="none"
      />
      {loud && (
        <text
          x={Math.max(from, LABELS + 4) + 4}
          y={y - 9}
          fontSize="12"
          fontWeight="700"
          stroke="var(--paper)"
          strokeWidth="4"
          paintOrder="stroke"
          className="text-ember"
        >
          {row.name}: {Math.round(meeting.needed_min)} min
        </text>
      )}
    </g>
  );
}

function NowLine({ x, text, bottom }: { x: number; text: string; bottom: number }) {
  return (
    <g className="text-paper">
      <line x1={x} x2={x} y1={AXIS - 6} y2={bottom} stroke="var(--steam)" strokeWidth="2" />
      <rect x={x - 26} y={3} width={52} height={20} rx={10} fill="var(--steam)" />
      <text x={x} y={17} fontSize="12" fontWeight="700" textAnchor="middle">
        {text}
      </text>
    </g>
  );
}

/** Ctrl and wheel draw closer, shift and wheel move, and so does dragging the ground. */
function useGestures({ span, onZoom, onMove }: Props, x: TimeScale) {
  const ref = useRef<SVGSVGElement>(null);
  const drag = useRef<number>(undefined);
  const perPixel = (span[1] - span[0]) / Math.max(1, x(span[1]) - x(span[0]));
  const current = useRef({ span, onZoom, onMove, perPixel });
  current.current = { span, onZoom, onMove, perPixel };
  useEffect(() => {
    const chart = ref.current;
    if (!chart) return;
    const wheel = (event: WheelEvent) => {
      const { span, onZoom, onMove, perPixel } = current.current;
      if (event.ctrlKey || event.metaKey) {
        event.preventDefault();
        const pixel = event.clientX - chart.getBoundingClientRect().left - LABELS;
        onZoom(Math.exp(event.deltaY / 300), span[0] + pixel * perPixel);
      } else if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) {
        event.preventDefault();
        onMove((event.deltaX || event.deltaY) * perPixel);
      }
    };
    chart.addEventListener("wheel", wheel, { passive: false });
    return () => chart.removeEventListener("wheel", wheel);
  }, []);
  const handlers = {
    onPointerDown: (event: PointerEvent) => {
      if (event.target === ref.current) drag.current = event.clientX;
    },
    onPointerMove: (event: PointerEvent) => {
      if (drag.current === undefined) return;
      onMove((drag.current - event.clientX) * perPixel);
      drag.current = event.clientX;
    },
    onPointerUp: () => {
      drag.current = undefined;
    },
    onPointerLeave: () => {
      drag.current = undefined;
    },
  };
  return { ref, handlers };
}
