/** Where a line's runs and doughs lie in the ribbon chart: rows by height, everything else by the minute. */
import { mixedFor, type PlanView, type Run, type Timeline } from "../api/client";
import type { Span, TimeScale } from "./timeScale";

/** The clock above the rows, and what is left without it. */
export const AXIS = 30;
export const NO_AXIS = 6;
export const DISPATCH_ROW = 22;
const UNDER = 4;
export const THIN_ROW = 22;
const NARROW_ROW = 17;
const MANY_ROWS = 13;
const BELTS_LEAST = 190;
const COMPACT_ROW = 5;
const MOST_LEAN = 4;

type Row = Timeline["rows"][number];
export type ChartRow = Row & { top: number; bottom: number };
export type Ribbon = Timeline["ribbons"][number];
export type Corner = readonly [minute: number, y: number];
type Box = readonly [from: number, to: number, top: number, bottom: number];

/** A run's doughs: in their mixers, waiting in troughs, and each one's way to the divider. */
export type Doughs = { mixed: Box[]; held: Box[]; ways: [discharged: number, divided: number, bottom: number][] };

export type Shape = {
  ribbon: Ribbon;
  run: Run;
  /** Whether the ribbon is the run's own product, not one cut out of it. */
  own: boolean;
  /** Packs that its lorries miss of what it makes. */
  short: number;
  outline: Corner[];
  /** Where it passes stations by. */
  passes: { name: string; corners: Corner[] }[];
  divider: ChartRow;
  /** The row with the most room for a name: the tallest that it does not lie across. */
  tallest: ChartRow;
  doughs: Doughs;
  /** From its first dough to its last piece, min. */
  lasts: Span;
};

const isDwell = (row: Row) => row.dwells;
const isDoughRoom = (row: Row) => row.dough_room;

/** Rows with their heights: belts share what mixers and machines leave, the longer dwell the taller. */
export function layOut(rows: Row[], height: number, compact: boolean, axis: number): ChartRow[] {
  const thin = compact ? COMPACT_ROW : rows.length > MANY_ROWS ? NARROW_ROW : THIN_ROW;
  const root = (row: Row) => Math.sqrt(row.dwell_min);
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

/** How high a chart of rows is. */
export const heightOf = (rows: ChartRow[]) => (rows.at(-1)?.bottom ?? AXIS) + DISPATCH_ROW + UNDER;

/** Everything of a line that is drawn as a ribbon. */
export function shapesOf(view: PlanView, rows: ChartRow[]): Shape[] {
  const runs = new Map(view.plan.runs.map((run) => [run.id, run]));
  const byStation = new Map(rows.map((row) => [row.station, row]));
  return view.timeline.ribbons.flatMap((ribbon) => {
    const run = runs.get(ribbon.run);
    const divider = byStation.get(ribbon.stops[0]?.station ?? "");
    const upright = ribbon.stops.filter(isUpright).flatMap((stop) => byStation.get(stop.station) ?? []);
    if (!run || !divider) return [];
    const own = ribbon.product === run.product;
    const holds = view.timeline.holds.filter((hold) => hold.run === run.id);
    const doughs = own ? doughsOf(run, holds, byStation) : { mixed: [], held: [], ways: [] };
    const outline = outlineOf(ribbon, rows);
    const minutes = [...outline.map(([minute]) => minute), ...doughs.mixed.map(([from]) => from)];
    return {
      ribbon,
      run,
      own,
      short: own ? shortOf(view, run) : 0,
      outline,
      passes: passesOf(ribbon, rows),
      divider,
      tallest: upright.reduce((one, other) => (other.bottom - other.top > one.bottom - one.top ? other : one), divider),
      doughs,
      lasts: [Math.min(...minutes), Math.max(...minutes)] as const,
    };
  });
}

/** What the lorries that a run is for miss of its product. */
function shortOf({ plan }: PlanView, run: Run): number {
  const its = plan.waves.filter(
    (outcome) => outcome.product === run.product && run.items.some((item) => item.wave === outcome.wave),
  );
  return its.reduce((sum, outcome) => sum + outcome.short, 0);
}

/** Whether a ribbon leans little enough at a stop to carry a name there. */
const isUpright = (stop: Ribbon["stops"][number]) =>
  stop.first_out - stop.first_in <= MOST_LEAN * (stop.last_in - stop.first_in);

/** A ribbon's corners, down its front and up its back. */
export function outlineOf(ribbon: Ribbon, rows: ChartRow[]): Corner[] {
  const at = new Map(ribbon.stops.map((stop) => [stop.station, stop]));
  const front: Corner[] = [];
  const back: Corner[] = [];
  for (const row of rows) {
    const stop = at.get(row.station);
    if (!stop) continue;
    front.push([stop.first_in, row.top], [stop.first_out, row.bottom]);
    back.push([stop.last_in, row.top], [stop.last_out, row.bottom]);
  }
  return [...front, ...back.reverse()];
}

function passesOf(ribbon: Ribbon, rows: ChartRow[]): Shape["passes"] {
  const at = new Map(ribbon.stops.map((stop) => [stop.station, stop]));
  return rows.flatMap((row, place) => {
    if (at.has(row.station) || isDoughRoom(row)) return [];
    const before = rows.slice(0, place).findLast((other) => at.has(other.station));
    const after = rows.slice(place).find((other) => at.has(other.station));
    const [from, to] = [at.get(before?.station ?? ""), at.get(after?.station ?? "")];
    if (!before || !after || !from || !to) return [];
    const part = (y: number) => (y - before.bottom) / (after.top - before.bottom);
    const first = (y: number): Corner => [from.first_out + part(y) * (to.first_in - from.first_out), y];
    const last = (y: number): Corner => [from.last_out + part(y) * (to.last_in - from.last_out), y];
    return [{ name: row.name, corners: [first(row.top), first(row.bottom), last(row.bottom), last(row.top)] }];
  });
}

/** How far a mark keeps from the edges of its row, px: less in a thin one. */
const inset = (row: ChartRow, wanted: number) => Math.min(wanted, (row.bottom - row.top) / 5);

function doughsOf(run: Run, holds: Timeline["holds"], byStation: Map<string, ChartRow>): Doughs {
  const box = (station: string, from: number, to: number, margin: number): Box[] => {
    const row = byStation.get(station);
    return row ? [[from, to, row.top + inset(row, margin), row.bottom - inset(row, margin)]] : [];
  };
  return {
    mixed: mixedFor(run)
      .flatMap((batch) => [batch, ...batch.preparations])
      .flatMap((slot) => box(slot.mixer, slot.start_min, slot.discharged_min, 3))
      .concat(run.fillings.flatMap((made) => box(made.kettle, made.start_min, made.emptied_min, 3))),
    held: holds.flatMap((hold) => box(hold.station, hold.from_min, hold.to_min, 5)),
    ways: run.batches.flatMap((batch) => {
      const row = byStation.get(batch.mixer);
      return row ? [[batch.discharged_min, batch.divided_min, row.bottom]] : [];
    }),
  };
}

/** Whether any of a shape falls into a window of time. */
export const isInSight = ({ lasts }: Shape, span: Span) => lasts[0] < span[1] && lasts[1] > span[0];

const px = (value: number) => Math.round(value * 10) / 10;

/** Closed lines, each through its corners. */
export const closed = (x: TimeScale, ...all: Corner[][]) =>
  all.map((corners) => `M${corners.map(([minute, y]) => `${px(x(minute))} ${px(y)}`).join("L")}Z`).join("");

/** Boxes, each at least a pixel wide. */
export const boxes = (all: Box[], x: TimeScale) =>
  all
    .map(([from, to, top, bottom]) => {
      const [left, right] = [px(x(from)), px(x(to))];
      return `M${left} ${px(top)}H${Math.max(left + 1, right)}V${px(bottom)}H${left}Z`;
    })
    .join("");

/** Each dough's fall from its mixer to the divider. */
export const falls = (ways: Doughs["ways"], divider: ChartRow, x: TimeScale) =>
  ways
    .map(([discharged, divided, bottom]) => {
      const [from, to] = [px(x(discharged)), px(x(divided))];
      return `M${from} ${bottom - 4}C${to} ${bottom - 2} ${to} ${divider.top - 8} ${to} ${divider.top + 6}`;
    })
    .join("");
