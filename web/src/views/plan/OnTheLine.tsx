/** A run that is on a line, or of which doughs stand in troughs, and that no plan has: entered by hand. */
import { useState } from "react";
import { useNavigate } from "react-router";
import { useEnterRun, useLibrary } from "../../api/queries";
import { LinePick } from "../../ui/LinePick";
import { Pick } from "../../ui/Pick";
import { Button, Loading, Refused } from "../../ui/parts";
import { useWindowView } from "../planningWindow";

const FIELD = "rounded border border-trail/60 bg-paper px-2 py-1.5";
const MOST_DOUGHS = 500;

type Props = { line: string | undefined; version: number; onDone: () => void };

export function OnTheLine({ line, version, onDone }: Props) {
  const { day, clock } = useWindowView();
  const library = useLibrary().data?.library;
  const enter = useEnterRun();
  const navigate = useNavigate();
  const [chosen, setChosen] = useState(line ?? day.lines[0]?.id ?? "");
  const products = library?.products.filter((made) => made.line === chosen && made.formula.length > 0) ?? [];
  const [wanted, setProduct] = useState("");
  const product = products.find((made) => made.id === wanted)?.id ?? products[0]?.id ?? "";
  const [packs, setPacks] = useState("");
  const [first, setFirst] = useState(() => clock.typed(clock.minuteNow()));
  const [emptied, setEmptied] = useState<string[]>([]);
  const good = product !== "" && first !== "" && Number(packs) >= 1 && emptied.every((moment) => moment !== "");
  if (!library) return <Loading what="the line" />;
  const submit = () =>
    enter.mutate(
      { version, run: { line: chosen, product, packs: Math.round(Number(packs)), first_piece: first, emptied } },
      {
        onSuccess: (made) => {
          onDone();
          navigate(`/plan/${made.version}?line=${chosen}`);
        },
      },
    );
  return (
    <>
      <p className="mb-2 text-ink-2 text-sm">
        What is on a line now, or stands in a trough, and is in no plan: on a first day, or when something else was made
        than planned. It is a fact from then on, and the plan is fitted around it.
      </p>
      <LinePick line={chosen} onChange={setChosen} />
      <form
        className="mt-3 grid gap-3 text-sm"
        onSubmit={(event) => {
          event.preventDefault();
          if (good) submit();
        }}
      >
        <div className="flex flex-wrap items-end gap-3">
          <Pick
            label="What is made"
            value={product}
            onChange={setProduct}
            options={products.map((made) => ({ value: made.id, label: made.name }))}
          />
          <label>
            <span className="block text-ink-2 text-xs">First piece divided</span>
            <input
              type="datetime-local"
              required
              className={FIELD}
              value={first}
              onChange={(event) => setFirst(event.target.value)}
            />
          </label>
          <label>
            <span className="block text-ink-2 text-xs">Packs of the whole run</span>
            <input
              type="number"
              required
              min={1}
              max={100000}
              className={`${FIELD} w-28 text-right`}
              value={packs}
              onChange={(event) => setPacks(event.target.value)}
            />
          </label>
        </div>
        <fieldset className="grid gap-1.5">
          <legend className="text-ink-2 text-xs">
            Doughs that are mixed, the first one first; none where they were mixed as a plan would have it
          </legend>
          {emptied.map((moment, place) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: a dough is known by its place alone
            <div key={place} className="flex items-center gap-2">
              <label className="flex items-center gap-2">
                Dough {place + 1} left the bowl
                <input
                  type="datetime-local"
                  required
                  className={FIELD}
                  value={moment}
                  onChange={(event) =>
                    setEmptied(emptied.map((other, at) => (at === place ? event.target.value : other)))
                  }
                />
              </label>
              <button
                type="button"
                className="text-xs underline"
                aria-label={`Delete dough ${place + 1}`}
                onClick={() => setEmptied(emptied.filter((_, at) => at !== place))}
              >
                Delete
              </button>
            </div>
          ))}
          <div>
            <Button
              disabled={emptied.length >= MOST_DOUGHS}
              onClick={() => setEmptied([...emptied, emptied[emptied.length - 1] ?? first])}
            >
              A mixed dough
            </Button>
          </div>
        </fieldset>
        <p className="text-ink-2 text-xs">
          The first piece may be yet to come, where doughs stand ready for it. What began before {clock.date(0)}{" "}
          {clock.time(0)} makes the window begin earlier. Packs that are made already are of this run: they are no stock
          beside it.
        </p>
        {enter.isError && <Refused error={enter.error} />}
        <div>
          <Button type="submit" weight="strong" disabled={!good || enter.isPending}>
            {enter.isPending ? "Fitting the plan …" : "It is on the line"}
          </Button>
        </div>
      </form>
    </>
  );
}
