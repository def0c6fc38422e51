/** The plant and what it makes: drawn as the walk, changed on a draft, and tried before it is used. */
import { type ReactNode, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { pastWindow, type Schemas } from "../../api/client";
import { useChangeLibrary, useLibrary, useLibrarySchemas, useStarters, useTriedLibrary } from "../../api/queries";
import { plural } from "../../app/format";
import { Choice } from "../../ui/Choice";
import { Button, Header, Loading, Refused } from "../../ui/parts";
import { type Draft, type Kind, thingsOf, useDraft } from "./draft";
import { Files } from "./Files";
import type { Schema } from "./form/schema";
import { LineScreen } from "./LineScreen";
import { ProductScreen } from "./ProductScreen";
import { ThingScreen } from "./ThingScreen";

export type Parts = {
  draft: Draft;
  schemas: Record<Kind, Schema>;
  starters: Record<string, Schemas["Starter"]>;
  trial: Schemas["Trial"] | undefined;
  showFor: (product: string | undefined) => void;
  picks: ReactNode;
};

const KINDS: { value: Kind; label: string }[] = [
  { value: "lines", label: "Lines" },
  { value: "products", label: "Products" },
  { value: "ingredients", label: "Ingredients" },
  { value: "preparations", label: "Preparations" },
  { value: "plant", label: "The plant" },
];

export function PlantView() {
  const library = useLibrary();
  const schemas = useLibrarySchemas();
  const starters = useStarters();
  const failed = library.error ?? schemas.error ?? starters.error;
  if (failed)
    return (
      <div className="m-5">
        <Refused error={failed} />
      </div>
    );
  if (!library.data || !schemas.data || !starters.data) return <Loading what="the plant" />;
  return <Plant view={library.data} schemas={schemas.data} starters={starters.data} />;
}

type PlantProps = {
  view: Schemas["LibraryView"];
  schemas: Record<string, unknown>;
  starters: Record<string, Schemas["Starter"]>;
};

function Plant({ view, schemas, starters }: PlantProps) {
  const params = useParams();
  const navigate = useNavigate();
  const draft = useDraft(view.note.number, view.library);
  const [shownFor, showFor] = useState<string>();
  const tried = useTriedLibrary(draft.edits, shownFor, view.note.number);
  const [files, setFiles] = useState(false);
  const change = useChangeLibrary();
  const kind = KINDS.find((found) => found.value === params.kind)?.value ?? "lines";
  const faults = tried.data?.faults?.length ?? 0;
  const count = draft.edits.length;
  const save = async () => {
    const edits = draft.edits;
    const taken = await change.mutateAsync({ based_on: draft.basedOn, edits }).catch(() => undefined);
    if (taken) draft.saved(edits, taken.note?.number ?? draft.basedOn);
  };
  const parts: Parts = {
    draft,
    starters,
    showFor,
    schemas: schemas as Record<Kind, Schema>,
    trial: tried.data,
    picks: <Choice label="What to see" value={kind} onChange={(next) => navigate(`/plant/${next}`)} options={KINDS} />,
  };
  const Screen = { lines: LineScreen, products: ProductScreen }[kind as string] ?? ThingScreen;
  return (
    <>
      <Header
        title={draft.library.plant.name}
        sub={`version ${view.note.number}: ${view.note.origin}${count ? `; ${plural(count, "change")} not yet in use` : ""}`}
        actions={
          <>
            <Button disabled={count === 0} onClick={draft.undo}>
              Undo
            </Button>
            {count > 0 && <Button onClick={draft.leave}>Leave it as it was</Button>}
            <Button onClick={() => navigate("/instruments")}>Instruments</Button>
            <Button onClick={() => setFiles(true)}>Files and versions</Button>
            <Button
              weight="strong"
              disabled={count === 0 || faults > 0 || change.isPending || pastWindow !== undefined}
              onClick={save}
            >
              Use this version
            </Button>
          </>
        }
      />
      {change.isError && (
        <div className="mx-2 mb-2">
          <Refused error={change.error} />
          {change.error.status === 409 && (
            <Button
              className="mt-2"
              onClick={() => {
                draft.onNewest();
                change.reset();
              }}
            >
              Put my changes on version {view.note.number}
            </Button>
          )}
        </div>
      )}
      <Screen key={kind} kind={kind} parts={parts} />
      {files && <Files newest={view.note.number} onClose={() => setFiles(false)} />}
    </>
  );
}

/** The thing that the address names, or the first. */
export function useChosen(kind: Kind, draft: Draft) {
  const { id } = useParams();
  const things = thingsOf(draft.library, kind);
  return { things, chosen: id === undefined ? things[0] : things.find((thing) => thing.id === id) };
}
