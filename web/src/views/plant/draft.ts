/** What is changed in the plant and not saved yet: kept over a reload, undone step by step, saved all at once. */
import { useEffect, useMemo, useState } from "react";
import { pastWindow, type Schemas } from "../../api/client";
import type { Data } from "./form/schema";

export type Edit = Schemas["Edit"];
export type Kind = Edit["kind"];
export type Library = Schemas["Library"];
export type Thing = Data & { id: string; name: string };

/** A draft: of which plant, on which of its versions, and what it was after each step. */
type Kept = { plant: string; basedOn: number; steps: Edit[][] };

const KEY = "rundgang.plant-draft";
const ONE_STEP_MS = 1_000;
const MOST_STEPS = 200;
const NONE: Edit[] = [];

/** The draft of a plant that was left; none of another plant, and none on an earlier window. */
function recalled(plant: string): Kept | undefined {
  if (pastWindow !== undefined) return undefined;
  try {
    const kept = JSON.parse(localStorage.getItem(KEY) ?? "null") as Kept | null;
    return kept?.plant === plant && Array.isArray(kept.steps) && kept.steps.every(Array.isArray) ? kept : undefined;
  } catch {
    return undefined;
  }
}

/** A kind's things of a library; of the plant itself, what is neither line nor ingredient. */
export function thingsOf(library: Library, kind: Kind): Thing[] {
  const { ingredients, lines, ...plant } = library.plant;
  const found = { ingredients, lines, products: library.products, preparations: library.preparations ?? [] };
  return (kind === "plant" ? [{ ...plant, id: "plant" }] : found[kind]) as unknown as Thing[];
}

/** A library with things as they shall be. */
export function edited(library: Library, edits: readonly Edit[]): Library {
  const after = structuredClone(library) as unknown as Record<string, Thing[]> & { plant: Record<string, Thing[]> };
  for (const { kind, id, data } of edits) {
    if (kind === "plant") {
      after.plant = { ...after.plant, ...(data as Record<string, Thing[]>) };
      continue;
    }
    const holder: Record<string, Thing[]> = kind === "lines" || kind === "ingredients" ? after.plant : after;
    const things = holder[kind] ?? [];
    const place = things.findIndex((thing) => thing.id === id);
    if (data == null) holder[kind] = things.filter((thing) => thing.id !== id);
    else if (place < 0) holder[kind] = [...things, data as Thing];
    else holder[kind] = things.map((thing, at) => (at === place ? (data as Thing) : thing));
  }
  return after as unknown as Library;
}

/** The newest of each thing. */
const merged = (edits: Edit[], more: readonly Edit[]) => [
  ...edits.filter((old) => !more.some((one) => one.kind === old.kind && one.id === old.id)),
  ...more,
];

export function useDraft(newest: number, library: Library) {
  const plant = `${library.plant.name}, ${library.plant.town}`;
  const [kept, setKept] = useState<Kept>(() => recalled(plant) ?? { plant, basedOn: newest, steps: [] });
  const [last, setLast] = useState({ key: "", at: 0 });
  const edits = kept.steps.at(-1) ?? NONE;
  useEffect(() => {
    if (pastWindow !== undefined) return;
    if (edits.length > 0) localStorage.setItem(KEY, JSON.stringify(kept));
    else localStorage.removeItem(KEY);
  }, [kept, edits.length]);
  const after = useMemo(() => edited(library, edits), [library, edits]);
  const edit = (more: readonly Edit[]) => {
    // What one types into one thing without a pause is one step to undo.
    const key = more.map((one) => `${one.kind} ${one.id} ${one.data == null}`).join();
    const goesOn = key === last.key && Date.now() - last.at < ONE_STEP_MS && kept.steps.length > 0;
    setLast({ key, at: Date.now() });
    const before = goesOn ? kept.steps.slice(0, -1) : kept.steps;
    setKept({
      plant,
      basedOn: edits.length === 0 ? newest : kept.basedOn,
      steps: [...before.slice(-MOST_STEPS), merged(edits, more)],
    });
  };
  return {
    edits,
    library: after,
    basedOn: edits.length === 0 ? newest : kept.basedOn,
    edit,
    undo: () => {
      setLast({ key: "", at: 0 });
      setKept({ ...kept, steps: kept.steps.slice(0, -1) });
    },
    leave: () => setKept({ plant, basedOn: newest, steps: [] }),
    /** What was saved is no longer a draft; what was typed meanwhile stays one. */
    saved: (done: readonly Edit[], basedOn: number) =>
      setKept((now) => {
        const rest = (now.steps.at(-1) ?? []).filter((one) => !done.includes(one));
        return { plant: now.plant, basedOn, steps: rest.length > 0 ? [rest] : [] };
      }),
    onNewest: () => setKept({ ...kept, basedOn: newest }),
  };
}

export type Draft = ReturnType<typeof useDraft>;
