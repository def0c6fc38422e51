/** One run as its ribbon: doughs in their mixers, the ribbon itself, its name, and a nail where it is pinned. */
import { memo, type PointerEvent, useMemo } from "react";
import type { Run } from "../api/client";
import type { Clock } from "../app/format";
import { plural } from "../app/format";
import { tone } from "./dough";
import { boxes, closed, falls, type Shape } from "./ribbons";
import type { TimeScale } from "./timeScale";

/** Room a dough must have to be drawn as a tick, and to be drawn with where it waits and goes. */
const [TICK_PX, WAY_PX] = [1, 2];

type ShapeProps = {
  shape: Shape;
  x: TimeScale;
  names: Map<string, string>;
  tones: Map<string, number>;
  clock: Clock;
  compact: boolean;
  chosen: boolean;
  faint: boolean;
  onSelect: (run: string | undefined) => void;
  onEnter: (run: string) => void;
  onGrab: (event: PointerEvent, run: Run) => void;
};

export const RibbonShape = memo((props: ShapeProps) => {
  const { shape, x, names, tones, clock, compact, chosen, faint, onSelect, onEnter, onGrab } = props;
  const { ribbon, run, own, divider } = shape;
  const look = tone(tones.get(ribbon.product) ?? 0);
  const outline = closed(x, shape.outline);
  const name = names.get(ribbon.product) ?? ribbon.product;
  const label = useMemo(
    () =>
      [
        `${run.id} ${name}, ${plural(run.packs, "pack")}`,
        `first pack ${clock.spoken(run.first_pack_min)}, last pack ${clock.spoken(run.last_pack_min)}`,
        ...(run.pinned_min == null ? [] : ["pinned"]),
        ...(shape.short ? [`${plural(shape.short, "pack")} short for its lorries`] : []),
      ].join(", "),
    [run, name, clock, shape.short],
  );
  return (
    <>
      {/* biome-ignore lint/a11y/useSemanticElements: a shape of the drawing that can be chosen like a button */}
      <g
        role="button"
        tabIndex={0}
        aria-pressed={chosen}
        aria-label={label}
        data-run={own ? run.id : undefined}
        className="cursor-pointer outline-offset-4"
        opacity={faint ? 0.35 : 1}
        onPointerDown={(event) => onGrab(event, run)}
        onClick={() => onSelect(chosen ? undefined : run.id)}
        onKeyDown={(event) => {
          if (event.key !== "Enter" && event.key !== " ") return;
          event.preventDefault();
          if (event.key === "Enter") onEnter(run.id);
          else onSelect(chosen ? undefined : run.id);
        }}
      >
        <DoughRoom shape={shape} x={x} look={look} />
        <path
          d={outline}
          fill={look.fill}
          fillOpacity="0.92"
          stroke={look.edge}
          strokeWidth={chosen ? 3 : 1.2}
          strokeLinejoin="round"
        />
        {look.pattern && <path d={outline} fill={look.pattern} />}
        {shape.passes.length > 0 && (
          <path d={closed(x, ...shape.passes.map((pass) => pass.corners))} fill="var(--paper)" opacity="0.72">
            <title>{`${run.id} passes by: ${shape.passes.map((pass) => pass.name).join(", ")}`}</title>
          </path>
        )}
      </g>
      {own && run.pinned_min != null && <PinMark x={x(run.start_min)} y={divider.top} />}
      {!faint && !compact && <RibbonName shape={shape} name={name} x={x} />}
      {own && compact && <RunNumber shape={shape} x={x} />}
    </>
  );
});

/** A pinned run: a nail through its first corner. */
function PinMark({ x, y }: { x: number; y: number }) {
  return (
    <g pointerEvents="none" className="text-ink">
      <line x1={x} x2={x} y1={y - 2} y2={y + 11} stroke="currentColor" strokeWidth="2" />
      <circle cx={x} cy={y - 4} r={4} fill="var(--ember)" stroke="currentColor" />
    </g>
  );
}

type NumberProps = { shape: Shape; x: TimeScale };

function RunNumber({ shape: { ribbon, run, tallest }, x }: NumberProps) {
  const stop = ribbon.stops.find((found) => found.station === tallest.station);
  if (!stop || x(stop.last_in) - x(stop.first_in) < 20) return null;
  return (
    <text
      x={(x(stop.first_in) + x(stop.last_out)) / 2}
      y={(tallest.top + tallest.bottom) / 2 + 4}
      fontSize="12"
      fontWeight="800"
      textAnchor="middle"
      pointerEvents="none"
    >
      {run.id}
    </text>
  );
}

type DoughRoomProps = { shape: Shape; x: TimeScale; look: ReturnType<typeof tone> };

/** A run's doughs and preparations as ticks in their mixers, in troughs, and each dough's way to the divider. */
function DoughRoom({ shape: { run, doughs, divider }, x, look }: DoughRoomProps) {
  const room = doughs.ways.length && (x(run.start_min + run.feed_min) - x(run.start_min)) / doughs.ways.length;
  if (room < TICK_PX) return null;
  return (
    <>
      {room >= WAY_PX && doughs.held.length > 0 && (
        <path d={boxes(doughs.held, x)} fill={look.fill} fillOpacity="0.55" stroke={look.edge} strokeWidth="0.6" />
      )}
      <path d={boxes(doughs.mixed, x)} fill={look.fill} stroke={look.edge} strokeWidth={room < WAY_PX ? 0.5 : 1} />
      {room >= WAY_PX && (
        <path d={falls(doughs.ways, divider, x)} fill="none" stroke={look.edge} strokeWidth="1" opacity="0.6" />
      )}
    </>
  );
}

type NameProps = { shape: Shape; name: string; x: TimeScale };

function RibbonName({ shape: { ribbon, run, tallest: row }, name, x }: NameProps) {
  const stop = ribbon.stops.find((found) => found.station === row.station);
  if (!stop) return null;
  const centre = (x(stop.first_in) + x(stop.last_out)) / 2;
  const room = x(stop.last_in) - x(stop.first_in);
  if (room < 20) return null;
  const packs = plural(run.packs, "pack");
  const lines = room > Math.max(name.length, packs.length) * 6.5 ? [run.id, name, packs] : [run.id];
  const middle = (row.top + row.bottom) / 2;
  return (
    <g pointerEvents="none" textAnchor="middle">
      {lines.map((text, index) => (
        <text
          key={text}
          x={centre}
          y={middle + 5 + (index - (lines.length - 1) / 2) * 15}
          fontSize={index ? 12 : 14}
          fontWeight={index ? 500 : 800}
        >
          {text}
        </text>
      ))}
    </g>
  );
}
