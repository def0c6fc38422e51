/** Weighing up: a batch card as a guide, one ingredient after the other, read at arm's length, entered with one hand. */
import { useState } from "react";
import { Link, useParams } from "react-router";
import type { Schemas } from "../../api/client";
import { type BatchOf, useGuide, useTap } from "../../api/queries";
import { kilograms } from "../../app/format";
import { useUnits } from "../../app/units";
import { useMinuteNow } from "../../app/useMinuteNow";
import { Button, buttonLook, Header, Loading, Notice, Panel, Refused } from "../../ui/parts";
import { useWindowView } from "../planningWindow";
import { PutIn } from "./PutIn";

type Guide = Schemas["Guide"];
type Step = Guide["steps"][number];

export function WeighView() {
  const { line = "", run = "", key = "" } = useParams();
  const batch = { line, run, key };
  const found = useGuide(batch);
  if (found.isError)
    return (
      <div className="m-5">
        <Refused error={found.error} again={() => found.refetch()} />
      </div>
    );
  if (!found.data) return <Loading what="the batch" />;
  return <Weighing key={`${line} ${run} ${key}`} batch={batch} guide={found.data} />;
}

/** Who says so where nobody has told. */
const AS_PLANNED = "as planned";

function Weighing({ batch, guide }: { batch: BatchOf; guide: Guide }) {
  const { clock } = useWindowView();
  const [chosen, choose] = useState<string>();
  const { card, steps } = guide;
  const done = steps.filter((step) => step.done).length;
  const next = steps.find((step) => !step.done);
  const at = steps.find((step) => step.ingredient === chosen) ?? next;
  const out = guide.told.find((event) => event.kind === "discharged");
  return (
    <>
      <Header
        title={card.product_name}
        sub={`${card.run}, batch ${card.number} of ${card.of}, ${card.mixer}, start ${clock.moment(card.start_min)}`}
        actions={
          <>
            {guide.lot && (
              <Link className={buttonLook()} to={`/lots/${guide.lot.number}`}>
                Its lot
              </Link>
            )}
            <Link className={buttonLook()} to={`/dough/${guide.plan}/${card.run}/${card.key}`}>
              Batch card
            </Link>
          </>
        }
      />
      {out && (
        <div className="mx-2 mb-2">
          <Notice
            tone="good"
            title={out.author === AS_PLANNED ? "Out of the bowl, as planned." : `Out of the bowl, says ${out.author}.`}
          />
        </div>
      )}
      <div className="grid flex-1 grid-cols-[minmax(0,1fr)] content-start gap-2 px-2 pb-2 md:grid-cols-[15rem_1fr]">
        <nav aria-label="Ingredients" className="order-last md:order-none">
          <ol className="grid gap-1.5">
            {steps.map((step) => (
              <li key={step.ingredient}>
                <Ingredient step={step} here={step === at} onChoose={() => choose(step.ingredient)} />
              </li>
            ))}
          </ol>
        </nav>
        <div className="grid content-start gap-2">
          {at && !out && (
            <PutIn
              key={`${at.ingredient} ${at.weighed_g}`}
              batch={batch}
              guide={guide}
              step={at}
              onDone={() => choose(undefined)}
            />
          )}
          {!next && !out && (
            <Notice tone="good" title={`All ${done} ingredients are in, each within its tolerance or with a reason.`} />
          )}
          <Taps batch={batch} guide={guide} />
        </div>
      </div>
    </>
  );
}

function Ingredient({ step, here, onChoose }: { step: Step; here: boolean; onChoose: () => void }) {
  const units = useUnits();
  const mass = (grams: number) => (units.system === "us" ? units.shown(grams / 1000, "scaled mass") : kilograms(grams));
  return (
    <button
      type="button"
      aria-current={here ? "step" : undefined}
      onClick={onChoose}
      className="flex min-h-[48px] w-full items-center gap-3 rounded-lg border border-rule bg-paper px-3 py-2 text-left hover:border-trail aria-[current=step]:border-2 aria-[current=step]:border-crust"
    >
      <span
        aria-hidden="true"
        className={`h-4 w-4 shrink-0 rounded-full border-2 ${step.done ? "border-steam bg-steam" : "border-trail bg-paper"}`}
      />
      <span className="flex-1">
        <span className="block font-semibold text-sm">{step.name}</span>
        <span className="block text-ink-2 text-xs">
          {step.done ? `in: ${mass(step.weighed_g)}` : step.at_min > 0 ? `at minute ${step.at_min}` : "at the start"}
        </span>
      </span>
      <span className="font-bold text-sm">{mass(step.grams)}</span>
    </button>
  );
}

/** What is told by one tap: all in, each speed, what goes in late, and out. */
function Taps({ batch, guide }: { batch: BatchOf; guide: Guide }) {
  const { clock } = useWindowView();
  const now = useMinuteNow();
  const tap = useTap();
  const out = guide.told.some((event) => event.kind === "discharged");
  const late = guide.steps.filter((step) => step.at_min > 0);
  const listed: { tap: Schemas["TapEntry"]["tap"]; what: string; says: string }[] = [
    { tap: "charged", what: "", says: "All in" },
    ...guide.card.phases.map((phase) => ({ tap: "phase" as const, what: phase.speed, says: `${phase.speed} begins` })),
    ...late.map((step) => ({ tap: "added" as const, what: step.name, says: `${step.name} added` })),
    { tap: "discharged", what: "", says: "Out of the bowl" },
  ];
  const told = (one: (typeof listed)[number]) =>
    guide.told.find((event) => event.kind === one.tap && String(event.said.what ?? "") === one.what);
  return (
    <Panel label="The mixer" className="p-4">
      <h2 className="mb-2 font-bold">The mixer</h2>
      <ol className="flex flex-wrap gap-2">
        {listed.map((one) => {
          const known = told(one);
          return (
            <li key={`${one.tap} ${one.what}`}>
              <Button
                size="touch"
                weight={one.tap === "discharged" && !known ? "strong" : "plain"}
                disabled={known !== undefined || out || tap.isPending}
                onClick={() => tap.mutate({ ...batch, tap: one.tap, what: one.what, at: clock.stamp(now) })}
              >
                {one.says}
                {known && <span className="font-normal text-steam">{clock.time(clock.minuteAt(known.at))}</span>}
              </Button>
            </li>
          );
        })}
      </ol>
      {tap.isError && <Refused error={tap.error} />}
      <p className="mt-2 text-ink-2 text-sm">
        Once it is out, what nobody has weighed is entered as its card says, out of the oldest lots.
      </p>
    </Panel>
  );
}
