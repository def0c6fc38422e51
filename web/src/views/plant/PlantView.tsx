/** The plant and its products: everything the plans are made from, to read and to change. */
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { fileAddress, type Schemas } from "../../api/client";
import { useLibrary, useLibrarySchemas } from "../../api/queries";
import { plural } from "../../app/format";
import { Choice } from "../../ui/Choice";
import { Button, buttonLook, Empty, Figure, Header, Loading, Panel, Refused } from "../../ui/parts";
import { useWindowView } from "../planningWindow";
import type { Entry, Kind } from "./entries";
import { LibraryFile } from "./LibraryFile";
import { Thing } from "./Thing";
import { Versions } from "./Versions";
import { WholePlant } from "./WholePlant";

type Library = Schemas["Library"];

const KINDS: { value: Kind; label: string; one: string }[] = [
  { value: "products", label: "Products", one: "product" },
  { value: "lines", label: "Lines", one: "line" },
  { value: "ingredients", label: "Ingredients", one: "ingredient" },
  { value: "preparations", label: "Preparations", one: "preparation" },
];

/** The things of a kind, with what they are listed under. */
function entriesOf(library: Library, kind: Kind): Entry[] {
  const lines = new Map(library.plant.lines.map((line) => [line.id, line.name]));
  const entry = (thing: { id: string; name: string }, under: string): Entry => ({
    id: thing.id,
    name: thing.name,
    under,
    data: thing as unknown as Record<string, unknown>,
  });
  switch (kind) {
    case "products":
      return library.products.map((made) => entry(made, `${lines.get(made.line)}: ${made.family}`));
    case "lines":
      return library.plant.lines.map((line) => entry(line, ""));
    case "ingredients":
      return library.plant.ingredients.map((item) => entry(item, item.role));
    case "preparations":
      return library.preparations.map((made) => entry(made, lines.get(made.line) ?? ""));
  }
}

export function PlantView() {
  const library = useLibrary();
  const schemas = useLibrarySchemas();
  const failed = library.error ?? schemas.error;
  if (failed)
    return (
      <div className="m-5">
        <Refused error={failed} />
      </div>
    );
  if (!library.data || !schemas.data) return <Loading what="the plant" />;
  return <Plant view={library.data} schemas={schemas.data} />;
}

function Plant({ view, schemas }: { view: Schemas["LibraryView"]; schemas: Record<string, unknown> }) {
  const params = useParams();
  const navigate = useNavigate();
  const { day } = useWindowView();
  const [open, setOpen] = useState<"file" | "versions" | "whole">();
  const { library, note } = view;
  const kind = KINDS.find((found) => found.value === params.kind) ?? KINDS[0];
  if (!kind) return null;
  const entries = entriesOf(library, kind.value);
  const chosen = params.id === undefined ? entries[0] : entries.find((entry) => entry.id === params.id);
  const isNew = params.id === "new";
  return (
    <>
      <Header
        title={day.plant}
        sub={`version ${note.number} of the library: ${note.origin}`}
        figures={
          <>
            <Figure value={String(library.plant.lines.length)} label="lines" />
            <Figure value={String(library.products.length)} label="products" />
            <Figure value={String(library.plant.ingredients.length)} label="ingredients" />
          </>
        }
        actions={
          <>
            <a href={fileAddress("/api/library/file.json")} download className={buttonLook()}>
              Save as JSON
            </a>
            <a href={fileAddress("/api/library/file.xlsx")} download className={buttonLook()}>
              Save as workbook
            </a>
            <Button onClick={() => setOpen("whole")}>Whole plant</Button>
            <Button onClick={() => setOpen("versions")}>Versions</Button>
            <Button weight="strong" onClick={() => setOpen("file")}>
              Bring a library in
            </Button>
          </>
        }
      />
      <div className="grid flex-1 content-start gap-2 px-2 pb-2 lg:grid-cols-[19rem_1fr]">
        <Panel label="What there is" className="self-start p-3">
          <Choice
            label="What to see"
            value={kind.value}
            onChange={(value) => navigate(`/plant/${value}`)}
            options={KINDS.map(({ value, label }) => ({ value, label }))}
          />
          <Entries kind={kind.value} entries={entries} chosen={isNew ? undefined : chosen} />
          <Link to={`/plant/${kind.value}/new`} className={`mt-2 ${buttonLook()}`}>
            Add {kind.one === "ingredient" ? "an" : "a"} {kind.one}
          </Link>
        </Panel>
        {chosen || isNew ? (
          <Thing
            key={`${kind.value}-${params.id ?? chosen?.id}-${note.number}`}
            kind={kind.value}
            one={kind.one}
            entry={isNew ? undefined : chosen}
            view={view}
            schema={schemas[kind.value] as Record<string, unknown>}
          />
        ) : (
          <Empty title={`No such ${kind.one}`}>
            Choose one from the list. There are {plural(entries.length, kind.one)}.
          </Empty>
        )}
      </div>
      {open === "file" && <LibraryFile onClose={() => setOpen(undefined)} />}
      {open === "whole" && <WholePlant onClose={() => setOpen(undefined)} />}
      {open === "versions" && <Versions newest={note.number} onClose={() => setOpen(undefined)} />}
    </>
  );
}

function Entries({ kind, entries, chosen }: { kind: Kind; entries: Entry[]; chosen: Entry | undefined }) {
  const groups = [...new Set(entries.map((entry) => entry.under))];
  return (
    <nav aria-label="Things" className="mt-2 max-h-[34rem] overflow-auto">
      {groups.map((group) => (
        <div key={group}>
          {group && <h3 className="mt-2 mb-0.5 font-semibold text-muted text-xs">{group}</h3>}
          <ul>
            {entries
              .filter((entry) => entry.under === group)
              .map((entry) => (
                <li key={entry.id}>
                  <Link
                    to={`/plant/${kind}/${entry.id}`}
                    aria-current={entry === chosen ? "page" : undefined}
                    className="block rounded-md px-2 py-1 text-sm hover:bg-crumb aria-[current=page]:bg-crumb aria-[current=page]:font-semibold"
                  >
                    {entry.name}
                  </Link>
                </li>
              ))}
          </ul>
        </div>
      ))}
    </nav>
  );
}
