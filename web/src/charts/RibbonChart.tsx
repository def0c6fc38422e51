/** The plan as ribbons: time runs across, the stations run down in walking order. */
import { memo, type ReactNode, useId, useMemo } from "react";
import type { Meeting, PlanView, Run, Timeline, Tried } from "../api/client";
import type { Clock } from "../app/format";
import { useStable } from "../ui/useStable";
import { CrumbPatterns } from "./dough";
import { useDrag, useGestures } from "./gestures";
import { RibbonShape } from "./RibbonShape";
import {
  AXIS,
  type ChartRow,
  closed,
  DISPATCH_ROW,
  heightOf,
  isInSight,
  layOut,
  NO_AXIS,
  outlineOf,
  shapesOf,
  THIN_ROW,
} from "./ribbons";
import { type Span, type TimeScale, tickStep } from "./timeScale";

export const LABELS = 164;

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
  /** Where a run's figures are, gone to by key. */
  onEnter?: (run: string) => void;
  met: Meeting | undefined;
  onMeet: (meeting: Meeting | undefined) => void;
  onZoom: (factor: number, around: number) => void;
  onMove: (minutes: number) => void;
  /** The runs as they were planned, drawn as outlines behind those that are shown. */
  planned?: Timeline["ribbons"];
  /** The line as it would run if what is dragged were dropped here. */
  tried?: Tried;
  onDrag?: (run: Run, startMin: number) => void;
  onDrop?: (run: Run, startMin: number) => void;
  onCancel?: () => void;
  /** Rows only a few pixels high, without names: one line among several. */
  compact?: boolean;
  /** Without the clock above it: another chart on the same clock stands over this one. */
  axisless?: boolean;
};

export function RibbonChart(props: Props) {
  const { view, clock, names, tones, span, width } = props;
  const compact = props.compact ?? false;
  const axis = props.axisless ? NO_AXIS : AXIS;
  const rows = useMemo(
    () => layOut(view.timeline.rows, props.height, compact, axis),
    [view, props.height, compact, axis],
  );
  const perMinute = Number(((width - 8 - LABELS) / (span[1] - span[0])).toPrecision(9));
  /** Everything on the clock is drawn from the window's start and moved as one, so moving draws nothing anew. */
  const x = useMemo(() => (minute: number) => minute * perMinute, [perMinute]);
  const left = span[0] * perMinute;
  const floor = rows.at(-1)?.bottom ?? AXIS;
  const bottom = floor + DISPATCH_ROW;
  const clip = useId();
  const shapes = useMemo(() => shapesOf(view, rows), [view, rows]);
  const gestures = useGestures({ ...props, left: LABELS, perMinute });
  const drag = useDrag({ ...props, perMinute });
  const select = useStable(props.onSelect);
  const enter = useStable((run: string) => (props.onEnter ? props.onEnter(run) : props.onSelect(run)));
  const grab = useStable(drag.grab);

  return (
    // biome-ignore lint/a11y/useSemanticElements: a drawing with parts to choose, not a form
    <svg
      ref={gestures.ref}
      width={width}
      height={heightOf(rows)}
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
      <Hours {...{ clock, span, x, left, width, bottom, axis }} />
      <Rows {...{ rows, width, bottom, compact }} />
      <g clipPath={`url(#${clip})`}>
        <g transform={`translate(${LABELS - left} 0)`}>
          {view.timeline.shut.map((block) => (
            <ShutMark key={`${block.station}-${block.from_min}`} block={block} rows={rows} x={x} />
          ))}
          {props.planned && (
            <path
              d={props.planned.map((ribbon) => closed(x, outlineOf(ribbon, rows))).join("")}
              className="text-muted"
              fill="none"
              stroke="currentColor"
              strokeWidth="1.3"
              strokeDasharray="4 3"
            >
              <title>as it was planned</title>
            </path>
          )}
          {shapes
            .filter((shape) => isInSight(shape, span))
            .map((shape) => (
              <RibbonShape
                key={`${shape.run.id}-${shape.ribbon.product}`}
                {...{ shape, x, names, tones, clock, compact }}
                chosen={shape.run.id === props.selected}
                faint={drag.dragged?.run.id === shape.run.id}
                onSelect={select}
                onEnter={enter}
                onGrab={grab}
              />
            ))}
          {!compact &&
            view.timeline.meetings.map((meeting) => (
              <MeetingMark key={meeting.then} {...props} {...{ meeting, rows, x, left }} />
            ))}
          {drag.dragged && (
            <Dragged {...drag.dragged} view={view} tried={props.tried} rows={rows} x={x} clock={clock} />
          )}
          <path
            d={props.waves.map((wave) => `M${x(wave.departs_min)} ${floor + 2}V${bottom}m-6 -7l6 7l6 -7`).join("")}
            stroke="currentColor"
            strokeWidth="2.5"
            fill="none"
          />
          {props.now > span[0] && props.now < span[1] && (
            <NowLine x={x(props.now)} text={props.axisless ? "" : clock.time(props.now)} bottom={bottom} />
          )}
        </g>
      </g>
    </svg>
  );
}

type HoursProps = {
  clock: Clock;
  span: Span;
  x: TimeScale;
  left: number;
  width: number;
  bottom: number;
  axis: number;
};

/** A line down the chart at every full hour or what fits, with its time where there is room above. */
function Hours({ clock, span, x, left, width, bottom, axis }: HoursProps) {
  const ticks = clock.ticks(span[0], span[1], tickStep(span, width - LABELS));
  return (
    <g transform={`translate(${LABELS - left} 0)`} className="text-ink-2">
      <path d={ticks.map((minute) => `M${x(minute)} ${axis - 4}V${bottom}`).join("")} stroke="var(--rule)" />
      {axis === AXIS &&
        ticks.map((minute) => (
          <text key={minute} x={x(minute)} y={AXIS - 10} textAnchor="middle" fontSize="12">
            {clock.time(minute) === "00:00" ? clock.date(minute).split(",")[0] : clock.time(minute)}
          </text>
        ))}
    </g>
  );
}

type RowsProps = { rows: ChartRow[]; width: number; bottom: number; compact: boolean };

/** The stations in walking order: their names and how busy they are, or, one line among several, only their edges. */
const Rows = memo(({ rows, width, bottom, compact }: RowsProps) => {
  if (compact)
    return <path d={rows.map((row) => `M${LABELS} ${row.bottom}H${width - 8}`).join("")} stroke="var(--rule)" />;
  return (
    <>
      <text x={LABELS - 26} y={AXIS - 10} fontSize="12" textAnchor="end" className="text-ink-2">
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
});

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
        <text x={(from + to) / 2} y={(row.top + row.bottom) / 2 + 4} fontSize="12" textAnchor="middle">
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
          <path
            key={`${ribbon.run}-${ribbon.product}`}
            d={closed(x, outlineOf(ribbon, rows))}
            fill="none"
            stroke="var(--steam)"
            strokeWidth="2"
            strokeDasharray="6 4"
          />
        ))}
      {own && (
        <path
          d={closed((minute) => x(minute + startMin - run.start_min), outlineOf(own, rows))}
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
      <text x={LABELS - 8} y={middle + 4} fontSize="12" textAnchor="end" className="text-ink-2">
        {children}
      </text>
    </>
  );
}

type MarkProps = Props & { meeting: Meeting; rows: ChartRow[]; x: TimeScale; left: number };

/** Where two runs come closest: a bracket at that station, loud when it is pointed at. */
function MeetingMark({ meeting, rows, x, left, met, onMeet, selected }: MarkProps) {
  const row = rows.find((found) => found.station === meeting.station);
  if (!row) return null;
  const loud = met === meeting || selected === meeting.then;
  const needed = Math.min(meeting.to_min, meeting.from_min + meeting.needed_min);
  const [from, to, y] = [x(meeting.from_min), x(needed), row.top];
  const text = `${row.name}: ${Math.round(meeting.needed_min)} min between ${meeting.first} and ${meeting.then}`;
  return (
    // biome-ignore lint/a11y/noInteractiveElementToNoninteractiveRole: a picture that grows loud where it is pointed at
    <g role="img" aria-label={text} onPointerEnter={() => onMeet(meeting)} onPointerLeave={() => onMeet(undefined)}>
      <rect x={from} y={y - 14} width={Math.max(2, to - from)} height={28} fill="transparent" />
      <path
        d={`M${from} ${y - 5}v10M${from} ${y}H${to}M${to} ${y - 5}v10`}
        stroke={loud ? "var(--ember)" : "var(--muted)"}
        strokeWidth={loud ? 3 : 1.5}
        fill="none"
      />
      {loud && (
        <text
          x={Math.max(from, left + 4) + 4}
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
