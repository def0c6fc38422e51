/** The plan as ribbons: time runs across, the stations run down in walking order. */
import { type PointerEvent, type ReactNode, useEffect, useId, useMemo, useRef, useState } from "react";
import type { Meeting, PlanView, Run, Timeline, Tried } from "../api/client";
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
const COMPACT_ROW = 5;
const NO_AXIS = 6;

type ChartRow = Timeline["rows"][number] & { top: number; bottom: number };
type Ribbon = Timeline["ribbons"][number];

const isDwell = (row: Timeline["rows"][number]) =>
  row.kind === "conveyor" || row.kind === "chamber" || row.kind === "held";
const isDoughRoom = (row: Timeline["rows"][number]) => row.kind === "batch" || row.kind === "trough";

/** Rows with their heights: belts share what mixers and machines leave, the longer dwell the taller. */
function layOut(rows: Timeline["rows"], height: number, compact: boolean, axis: number): ChartRow[] {
  const thin = compact ? COMPACT_ROW : rows.length > MANY_ROWS ? NARROW_ROW : THIN_ROW;
  const root = (row: Timeline["rows"][number]) => Math.sqrt(row.dwell_min);
  const belts = rows.filter(isDwell);
  const weight = belts.reduce((sum, row) => sum + root(row), 0) || 1;
  const left = height - axis - DISPATCH_ROW - thin * (rows.length - belts.length);
  const shared = Math.max(compact ? 0 : BELTS_LEAST, left) - thin * belts.length;
  let top = axis;
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
  /** The line as it would run if what is dragged were dropped here. */
  tried?: Tried;
  onDrag?: (run: Run, startMin: number) => void;
  onDrop?: (run: Run, startMin: number) => void;
  onCancel?: () => void;
  /** Rows only a few pixels high, without names: one line among several. */
  compact?: boolean;
  /** Without each dough and its way to the divider: there are too many to tell apart. */
  crowded?: boolean;
  /** Without the clock above it: another chart on the same clock stands over this one. */
  axisless?: boolean;
};

export function RibbonChart(props: Props) {
  const { view, clock, span, width } = props;
  const compact = props.compact ?? false;
  const axis = props.axisless ? NO_AXIS : AXIS;
  const rows = useMemo(
    () => layOut(view.timeline.rows, props.height, compact, axis),
    [view, props.height, compact, axis],
  );
  const x = timeScale(span, LABELS, width - 8);
  const floor = rows.at(-1)?.bottom ?? AXIS;
  const bottom = floor + DISPATCH_ROW;
  const clip = useId();
  const gestures = useGestures(props, x);
  const runs = new Map(view.plan.runs.map((run) => [run.id, run]));
  const drag = useDrag(props, x);

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
      {...drag.handlers}
    >
      <CrumbPatterns />
      <clipPath id={clip}>
        <rect x={LABELS} y={0} width={Math.max(0, width - LABELS - 8)} height={bottom + 4} />
      </clipPath>
      <Grid rows={rows} clock={clock} span={span} x={x} width={width} bottom={bottom} compact={compact} axis={axis} />
      <g clipPath={`url(#${clip})`}>
        {view.timeline.shut.map((block) => (
          <ShutMark key={`${block.station}-${block.from_min}`} block={block} rows={rows} x={x} />
        ))}
        {view.timeline.ribbons.filter(inSight(span)).map((ribbon) => {
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
                onGrab={drag.grab}
                faint={drag.dragged?.run.id === run.id}
              />
            )
          );
        })}
        {view.timeline.meetings.map((meeting) => (
          <MeetingMark key={meeting.then} {...props} meeting={meeting} rows={rows} x={x} />
        ))}
        {drag.dragged && <Dragged {...drag.dragged} view={view} tried={props.tried} rows={rows} x={x} clock={clock} />}
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
          <NowLine x={x(props.now)} text={props.axisless ? "" : clock.time(props.now)} bottom={bottom} />
        )}
      </g>
    </svg>
  );
}

type GridProps = {
  rows: ChartRow[];
  clock: Clock;
  span: Span;
  x: TimeScale;
  width: number;
  bottom: number;
  compact: boolean;
  axis: number;
};

function Grid({ rows, clock, span, x, width, bottom, compact, axis }: GridProps) {
  return (
    <>
      {clock.ticks(span[0], span[1], tickStep(span, width - LABELS)).map((minute) => (
        <g key={minute} className="text-ink-2">
          <line x1={x(minute)} x2={x(minute)} y1={axis - 4} y2={bottom} stroke="var(--rule)" />
          {axis === AXIS && (
            <text x={x(minute)} y={AXIS - 10} textAnchor="middle" fontSize="12">
              {clock.time(minute) === "00:00" ? clock.date(minute).split(",")[0] : clock.time(minute)}
            </text>
          )}
        </g>
      ))}
      {!compact && (
        <text x={LABELS - 26} y={AXIS - 10} fontSize="11" textAnchor="end" className="text-ink-2">
          in use
        </text>
      )}
      {rows.map((row) =>
        compact ? (
          <line key={row.station} x1={LABELS} x2={width - 8} y1={row.bottom} y2={row.bottom} stroke="var(--rule)" />
        ) : (
          <RowLabel key={row.station} top={row.top} bottom={row.bottom} width={width} name={row.name}>
            {Math.round(row.busy_share * 100)} %
          </RowLabel>
        ),
      )}
      {!compact && <RowLabel top={bottom - DISPATCH_ROW} bottom={bottom} width={width} name="Dispatch" />}
    </>
  );
}

type ShutProps = { block: Timeline["shut"][number]; rows: ChartRow[]; x: TimeScale };

/** A stretch of time in which a station takes nothing: hatched, with its reason. */
function ShutMark({ block, rows, x }: ShutProps) {
  const row = rows.find((found) => found.station === block.station);
  if (!row) return null;
  const [from, to] = [x(block.from_min), x(block.to_min)];
  return (
    <g className="text-ink-2">
      <rect x={from} y={row.top} width={Math.max(1, to - from)} height={row.bottom - row.top} fill="url(#shut)">
        <title>{`${row.name}: ${block.reason}`}</title>
      </rect>
      {to - from > block.reason.length * 6 && row.bottom - row.top > 11 && (
        <text x={(from + to) / 2} y={(row.top + row.bottom) / 2 + 4} fontSize="11" textAnchor="middle">
          {block.reason}
        </text>
      )}
    </g>
  );
}

type DraggedProps = {
  run: Run;
  startMin: number;
  view: PlanView;
  tried: Tried | undefined;
  rows: ChartRow[];
  x: TimeScale;
  clock: Clock;
};

/** What is dragged: its own shape where the hand is, and in outline every run where it would go. */
function Dragged({ run, startMin, view, tried, rows, x, clock }: DraggedProps) {
  const own = view.timeline.ribbons.find((ribbon) => ribbon.run === run.id && ribbon.product === run.product);
  const moved = new Set(tried?.moved.map((one) => one.run));
  const top = rows.find((row) => row.station === own?.stops[0]?.station)?.top ?? AXIS;
  return (
    <g pointerEvents="none">
      {tried?.timeline.ribbons
        .filter((ribbon) => moved.has(ribbon.run))
        .map((ribbon) => (
          <polygon
            key={`${ribbon.run}-${ribbon.product}`}
            points={outlineOf(ribbon, rows, x)}
            fill="none"
            stroke="var(--steam)"
            strokeWidth="2"
            strokeDasharray="6 4"
          />
        ))}
      {own && (
        <polygon
          points={outlineOf(own, rows, (minute) => x(minute + startMin - run.start_min))}
          fill="var(--crust)"
          fillOpacity="0.22"
          stroke="var(--crust)"
          strokeWidth="2"
        />
      )}
      <text
        x={x(startMin) + 6}
        y={top - 5}
        fontSize="13"
        fontWeight="700"
        stroke="var(--paper)"
        strokeWidth="4"
        paintOrder="stroke"
      >
        {run.id} from {clock.moment(startMin)}
      </text>
    </g>
  );
}

function outlineOf(ribbon: Ribbon, rows: ChartRow[], x: TimeScale): string {
  const at = new Map(ribbon.stops.map((stop) => [stop.station, stop]));
  const left: string[] = [];
  const right: string[] = [];
  for (const row of rows) {
    const stop = at.get(row.station);
    if (!stop) continue;
    left.push(`${x(stop.first_in)},${row.top}`, `${x(stop.first_out)},${row.bottom}`);
    right.push(`${x(stop.last_in)},${row.top}`, `${x(stop.last_out)},${row.bottom}`);
  }
  return [...left, ...right.reverse()].join(" ");
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

type ShapeProps = Props & {
  ribbon: Ribbon;
  run: Run;
  rows: ChartRow[];
  x: TimeScale;
  onGrab: (event: PointerEvent, run: Run) => void;
  faint: boolean;
};

function RibbonShape(props: ShapeProps) {
  const { view, ribbon, run, rows, x, names, tones, selected, onSelect, clock, onGrab, faint } = props;
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
        opacity={faint ? 0.35 : 1}
        onPointerDown={(event) => onGrab(event, run)}
        onClick={() => onSelect(chosen ? undefined : run.id)}
        onKeyDown={(event) => {
          if (event.key !== "Enter" && event.key !== " ") return;
          event.preventDefault();
          onSelect(chosen ? undefined : run.id);
        }}
      >
        {own && divider && !props.crowded && <DoughRoom {...{ view, run, rows, x, look }} divider={divider} />}
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
      {own && run.pinned_min != null && <PinMark x={x(run.start_min)} y={divider?.top ?? AXIS} />}
      {tallest && !faint && !props.compact && <RibbonName row={tallest} ribbon={ribbon} run={run} name={name} x={x} />}
      {tallest && props.compact && <RunNumber ribbon={ribbon} run={run} rows={rows} x={x} />}
    </>
  );
}

/** Whether any of a run, its doughs some hours before it included, falls into a window of time. */
const inSight = (span: Span) => (ribbon: Ribbon) => {
  const [first, last] = [ribbon.stops[0], ribbon.stops.at(-1)];
  return !first || !last || (first.first_in - DOUGHS_BEFORE_MIN < span[1] && last.last_out > span[0]);
};
const DOUGHS_BEFORE_MIN = 24 * 60;

/** A pinned run: a nail through its first corner. */
function PinMark({ x, y }: { x: number; y: number }) {
  return (
    <g pointerEvents="none" className="text-ink">
      <line x1={x} x2={x} y1={y - 2} y2={y + 11} stroke="currentColor" strokeWidth="2" />
      <circle cx={x} cy={y - 4} r={4} fill="var(--ember)" stroke="currentColor" />
    </g>
  );
}

type NumberProps = { ribbon: Ribbon; run: Run; rows: ChartRow[]; x: TimeScale };

function RunNumber({ ribbon, run, rows, x }: NumberProps) {
  const middle = ribbon.stops[Math.floor(ribbon.stops.length / 2)];
  const row = rows.find((found) => found.station === middle?.station);
  if (!middle || !row || ribbon.product !== run.product || x(middle.last_in) - x(middle.first_in) < 20) return null;
  return (
    <text
      x={(x(middle.first_in) + x(middle.last_out)) / 2}
      y={(row.top + row.bottom) / 2 + 4}
      fontSize="12"
      fontWeight="800"
      textAnchor="middle"
      pointerEvents="none"
    >
      {run.id}
    </text>
  );
}

/** How far a mark keeps from the edges of its row, px: less in a thin one. */
const inset = (row: ChartRow, wanted: number) => Math.min(wanted, (row.bottom - row.top) / 5);

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
              y={row.top + inset(row, 5)}
              width={Math.max(1, x(hold.to_min) - x(hold.from_min))}
              height={row.bottom - row.top - 2 * inset(row, 5)}
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
            y={row.top + inset(row, 3)}
            width={Math.max(1, x(slot.discharged_min) - x(slot.start_min))}
            height={row.bottom - row.top - 2 * inset(row, 3)}
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
      <line x1={x} x2={x} y1={text ? AXIS - 6 : 0} y2={bottom} stroke="var(--steam)" strokeWidth="2" />
      {text && (
        <>
          <rect x={x - 26} y={3} width={52} height={20} rx={10} fill="var(--steam)" />
          <text x={x} y={17} fontSize="12" fontWeight="700" textAnchor="middle">
            {text}
          </text>
        </>
      )}
    </g>
  );
}

const DRAG_FROM_PX = 5;

/** Dragging a run along the clock: it is grabbed, shown where it would go, and dropped or, with Escape, let be. */
function useDrag({ span, onDrag, onDrop, onCancel }: Props, x: TimeScale) {
  const grabbed = useRef<{ run: Run; from: number }>(undefined);
  const [dragged, setDragged] = useState<{ run: Run; startMin: number }>();
  const perPixel = (span[1] - span[0]) / Math.max(1, x(span[1]) - x(span[0]));
  const letBe = () => {
    grabbed.current = undefined;
    setDragged(undefined);
  };
  const cancel = useRef(onCancel);
  cancel.current = onCancel;
  useEffect(() => {
    if (!dragged) return;
    const letGo = (event: KeyboardEvent) => {
      if (event.key !== "Escape") return;
      event.stopImmediatePropagation();
      grabbed.current = undefined;
      setDragged(undefined);
      cancel.current?.();
    };
    window.addEventListener("keydown", letGo, true);
    return () => window.removeEventListener("keydown", letGo, true);
  }, [dragged]);
  const suppress = useRef(false);
  const handlers = onDrop
    ? {
        onPointerMoveCapture: (event: PointerEvent) => {
          const held = grabbed.current;
          if (!held || (!dragged && Math.abs(event.clientX - held.from) < DRAG_FROM_PX)) return;
          event.currentTarget.setPointerCapture(event.pointerId);
          const startMin = Math.max(0, Math.round(held.run.start_min + (event.clientX - held.from) * perPixel));
          setDragged({ run: held.run, startMin });
          onDrag?.(held.run, startMin);
        },
        onPointerUpCapture: () => {
          if (dragged) onDrop(dragged.run, dragged.startMin);
          letBe();
        },
        onClickCapture: (event: { stopPropagation: () => void }) => {
          if (suppress.current) event.stopPropagation();
          suppress.current = false;
        },
      }
    : {};
  if (dragged) suppress.current = true;
  const grab = (event: PointerEvent, run: Run) => {
    suppress.current = false;
    if (onDrop && event.button === 0) grabbed.current = { run, from: event.clientX };
  };
  return { handlers, grab, dragged };
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
