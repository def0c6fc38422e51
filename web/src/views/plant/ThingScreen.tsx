/** Ingredients, preparations, and the plant itself: a list, and the one that is chosen. */
import { useEffect, useState } from "react";
import { Link, useNavigate } from "react-router";
import { Button, Panel } from "../../ui/parts";
import type { Kind, Thing } from "./draft";
import { Effect } from "./Effect";
import { Form } from "./form/Form";
import { Naming } from "./Naming";
import { type Parts, useChosen } from "./PlantView";
import { referencesIn } from "./references";
import { copyOf } from "./route";

const ONE: Partial<Record<Kind, string>> = { ingredients: "ingredient", preparations: "preparation" };

export function ThingScreen({ kind, parts }: { kind: Kind; parts: Parts }) {
  const { draft, schemas, showFor } = parts;
  const navigate = useNavigate();
  const { things, chosen } = useChosen(kind, draft);
  const [copying, setCopying] = useState(false);
  const one = ONE[kind];
  useEffect(() => showFor(undefined), [showFor]);
  const put = (id: string, data: Record<string, unknown> | null) => draft.edit([{ kind, id, data }]);
  return (
    <div className="grid flex-1 content-start gap-2 px-2 pb-2 lg:grid-cols-[17rem_1fr_22rem]">
      <Panel label="What there is" className="self-start p-3 lg:col-span-3">
        {parts.picks}
      </Panel>
      {one && (
        <Panel label="Things" className="self-start p-3">
          <ul className="max-h-[34rem] overflow-auto">
            {things.map((thing) => (
              <li key={thing.id}>
                <Link
                  to={`/plant/${kind}/${thing.id}`}
                  aria-current={thing === chosen ? "page" : undefined}
                  className="block rounded-md px-2 py-1 text-sm hover:bg-crumb aria-[current=page]:bg-crumb aria-[current=page]:font-semibold"
                >
                  {thing.name}
                </Link>
              </li>
            ))}
          </ul>
        </Panel>
      )}
      <Panel label={chosen?.name ?? "Nothing"} className={`self-start p-4 ${one ? "" : "lg:col-span-2"}`}>
        {chosen ? (
          <>
            <div className="mb-3 flex flex-wrap items-center gap-2">
              <h2 className="mr-auto font-bold text-lg leading-6">{chosen.name}</h2>
              {one && (
                <>
                  <Button onClick={() => setCopying(true)}>Copy this {one}</Button>
                  <Button onClick={() => put(chosen.id, null)}>Delete</Button>
                </>
              )}
            </div>
            <Form
              key={chosen.id}
              schema={schemas[kind]}
              root={schemas[kind]}
              value={chosen}
              references={referencesIn(draft.library, typeof chosen.line === "string" ? chosen.line : undefined)}
              without={["lines", "ingredients"]}
              onChange={(next) => put(chosen.id, next)}
            />
          </>
        ) : (
          <p className="text-ink-2 text-sm">
            {things.length === 0 ? `There is no ${one} yet.` : `No such ${one}. Choose one from the list.`}
          </p>
        )}
        {things.length === 0 && kind === "preparations" && <BeginPreparation parts={parts} />}
      </Panel>
      <Effect parts={parts} product={undefined} />
      {copying && chosen && (
        <Naming
          title={`Copy ${chosen.name}`}
          begun={`${chosen.name} 2`}
          button={`Copy the ${one}`}
          onName={(name) => {
            const copy: Thing = copyOf(chosen, name, things);
            put(copy.id, copy);
            navigate(`/plant/${kind}/${copy.id}`);
          }}
          onClose={() => setCopying(false)}
        />
      )}
    </div>
  );
}

/** A plant's first preparation: the dough of its first product that has one, to be changed. */
function BeginPreparation({ parts }: { parts: Parts }) {
  const { draft } = parts;
  const navigate = useNavigate();
  const [naming, setNaming] = useState(false);
  const model = (draft.library.products as unknown as (Thing & { formula: unknown[]; route: unknown[] })[]).find(
    (product) => product.formula.length > 0,
  );
  if (!model) return null;
  return (
    <>
      <Button className="mt-2" onClick={() => setNaming(true)}>
        Add a preparation
      </Button>
      {naming && (
        <Naming
          title="Add a preparation"
          begun=""
          button="Add it"
          onName={(name) => {
            const made = { name, line: model.line, formula: model.formula, mixing: model.route[0] };
            const held = { temperature_c: model.dough_temperature_c, used_c: model.dough_temperature_c, held: null };
            const preparation = copyOf({ ...made, ...held, id: "" }, name, []);
            draft.edit([{ kind: "preparations", id: preparation.id, data: preparation }]);
            navigate(`/plant/preparations/${preparation.id}`);
          }}
          onClose={() => setNaming(false)}
        />
      )}
    </>
  );
}
