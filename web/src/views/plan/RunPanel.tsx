/** One run: its figures, what one can do with it, why it starts when it does, and its odd last batch. */
import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";
import { type Change, mixedFor, type PlanView, type Run } from "../../api/client";
import { type OddBatch, useBatching, useChangeLine, useHappened, useMaterials, useWhy } from "../../api/queries";
import { oneDecimal, percent, plural, whole } from "../../app/format";
import { useUnits } from "../../app/units";
import { useMinuteNow } from "../../app/useMinuteNow";
import { Swatch } from "../../charts/dough";
import { Choice } from "../../ui/Choice";
import { Button, buttonLook, Heading, Refused, Row } from "../../ui/parts";
import { SetUpList } from "../../ui/SetUpList";
import { useWindowView } from "../planningWindow";
import { Chain } from "./Chain";
import { wantedOf } from "./runs";

type Props = { version: number; view: PlanView; run: Run; onChange: (change: Change) => void; busy: boolean };

export function RunPanel({ version, view, run, onChange, busy }: Props) {
  const { clock, names, tones, waveNames } = useWindowView();
  const now = useMinuteNow();
  const [first, own] = [run.batches[0], mixedFor(run)[0]];
  const units = useUnits();
  return (
    <>
      <h2 className="font-bold text-lg leading-6">
        <Swatch index={tones.get(run.product) ?? 0} /> {run.id} {names.get(run.product)}
      </h2>
      <dl className="mt-2 border-rule border-t pt-1.5">
        <Row name="Packs">{whole(run.packs)}</Row>
        {run.packs !== run.packs_wanted && <Row name="of these to stock">{whole(run.packs - run.packs_wanted)}</Row>}
        <Row name="For">
          {run.items.map((lot) => (
            <span key={lot.wave} className="block font-normal text-xs">
              {whole(lot.packs)} {waveNames.get(lot.wave)}
            </span>
          ))}
        </Row>
        <Row name="Pace at the divider">{whole(run.scaled_per_h)} /h</Row>
        {first && <Row name="First dough">{clock.moment(first.start_min)}</Row>}
        <Row name="First piece made up">{clock.moment(run.start_min)}</Row>
        {Object.entries(run.dwell_min ?? {}).map(([station, minutes]) => (
          <Row key={station} name={view.timeline.rows.find((row) => row.station === station)?.name}>
            {oneDecimal(minutes)} min
            <span className="block font-normal text-xs">
              longer than its route says, to be cold enough in the air of its hours
            </span>
          </Row>
        ))}
        <Row name="First pack">{clock.moment(run.first_pack_min)}</Row>
        <Row name="Last pack">{clock.moment(run.last_pack_min)}</Row>
        {own && (
          <Row name="Batches">
            {mixedFor(run).length} of {units.shown(own.dough_g / 1000, "dough mass", 2)}{" "}
            {units.name("dough mass", "kg")}
          </Row>
        )}
        <Rests view={view} run={run} />
      </dl>
      <RunsOut view={view} run={run} />
      <Renewed view={view} run={run} />
      {own && (
        <Link
          to={`/dough/${view.number}/${run.id}/${own.number}`}
          className={`${buttonLook()} mt-2 w-full justify-center`}
        >
          Batch cards of {run.id}
        </Link>
      )}
      {run.start_min <= now && now < run.start_min + run.feed_min ? (
        <>
          <Heading>It is on the line: what happened?</Heading>
          <WhatHappened version={version} run={run} />
        </>
      ) : (
        <>
          <Heading>Do with it</Heading>
          <Deeds view={view} run={run} onChange={onChange} busy={busy} />
          <OtherLine version={version} run={run} />
        </>
      )}
      <Heading>Why it starts when it does</Heading>
      <WhyThen version={version} run={run} />
      <Heading>Last batch</Heading>
      <OddLastBatch view={view} run={run} onChange={onChange} />
    </>
  );
}

/** What this run finds of another's dough and fillings, and what it leaves the next. */
function Rests({ view, run }: { view: PlanView; run: Run }) {
  const { names } = useWindowView();
  const units = useUnits();
  const others = view.plan.runs.filter((other) => other !== run);
  const called = (other: Run) => `${other.id} ${names.get(other.product)}`;
  const kg = (grams: number) => `${units.shown(grams / 1000, "dough mass", 1)} ${units.name("dough mass", "kg")}`;
  const doughs = run.batches.flatMap((batch) =>
    others.flatMap((other) =>
      other.batches
        .filter((one) => one.mixer === batch.mixer && one.start_min === batch.start_min && one.shared !== batch.shared)
        .map((one) =>
          batch.shared
            ? `its first ${whole(batch.pieces)} pieces are divided from the last dough of ${called(other)}`
            : `its last dough also gives the first ${whole(one.pieces)} pieces of ${called(other)}`,
        ),
    ),
  );
  const kept = run.fillings
    .filter((filling) => filling.kept)
    .map((filling) => `begins with ${kg(filling.grams)} that the run before has left in ${filling.tank}`);
  const found = [...doughs, ...kept];
  return found.length > 0 ? (
    <Row name="Shares">
      {found.map((what) => (
        <span key={what} className="block font-normal text-xs">
          {what}
        </span>
      ))}
    </Row>
  ) : null;
}

/** What is no longer there for this run, by the newest plans of all lines. */
function RunsOut({ view, run }: { view: PlanView; run: Run }) {
  const { day } = useWindowView();
  const materials = useMaterials();
  const units = useUnits();
  const newest = day.plans.some((plan) => plan.number === view.number);
  const missing = (newest ? (materials.data ?? []) : []).filter(
    (item) => item.runs_out?.line === run.line && item.runs_out.run === run.id,
  );
  return (
    <>
      {missing.map((item) => (
        <p key={item.item} className="mt-2 border-ember border-l-4 pl-2 text-sm">
          <b className="text-ember">{item.name} runs out</b> at batch {item.runs_out?.batch}:{" "}
          {item.unit === "kg"
            ? `${units.shown(item.runs_out?.missing ?? 0, "dough mass")} ${units.name("dough mass", "kg")}`
            : `${whole(item.runs_out?.missing ?? 0)} pieces`}{" "}
          missing for it.
        </p>
      ))}
    </>
  );
}

/** Tools that are renewed before this run, for their life would end in it. */
function Renewed({ view, run }: { view: PlanView; run: Run }) {
  const { clock } = useWindowView();
  const before = view.plan.renewals.filter((found) => found.before === run.id);
  return (
    <>
      {before.map((found) => (
        <p key={`${found.station} ${found.tool}`} className="mt-2 border-trail border-l-4 pl-2 text-sm">
          <b>{found.tool} renewed</b> before it, {clock.time(found.from_min)} to {clock.time(found.to_min)}: they have
          had {whole(found.used)} of {whole(found.life)} {found.counted}. Isolate and lock out first; trained people
          only.
        </p>
      ))}
    </>
  );
}

type DeedProps = { view: PlanView; run: Run; onChange: (change: Change) => void; busy: boolean };

function Deeds({ view, run, onChange, busy }: DeedProps) {
  const wanted = wantedOf(run);
  const [packs, setPacks] = useState(String(Math.ceil(wanted / 2)));
  const of = { line: run.line, run: run.id };
  const place = view.plan.runs.findIndex((found) => found.id === run.id);
  const before = view.plan.runs[place - 1];
  const behind = view.plan.runs[place + 2];
  const again = view.plan.runs.slice(place + 1).some((found) => found.product === run.product);
  return (
    <div className="grid gap-2">
      <div className="flex flex-wrap gap-1.5">
        <Button
          size="small"
          disabled={busy || !before}
          onClick={() => before && onChange({ kind: "place", ...of, before: before.id })}
          title="["
        >
          Earlier
        </Button>
        <Button
          size="small"
          disabled={busy || place === view.plan.runs.length - 1}
          onClick={() => onChange({ kind: "place", ...of, before: behind?.id ?? null })}
          title="]"
        >
          Later
        </Button>
        <Button
          size="small"
          disabled={busy}
          aria-pressed={run.pinned_min != null}
          onClick={() => onChange({ kind: "pin", ...of, pinned: run.pinned_min == null })}
          title="p"
        >
          {run.pinned_min == null ? "Pin" : "Unpin"}
        </Button>
        {again && (
          <Button size="small" disabled={busy} onClick={() => onChange({ kind: "merge", ...of })} title="m">
            Join the next
          </Button>
        )}
      </div>
      {wanted > 1 && (
        <form
          className="flex items-center gap-1.5 text-sm"
          onSubmit={(event) => {
            event.preventDefault();
            onChange({ kind: "split", ...of, packs: Number(packs) });
          }}
        >
          <label className="flex items-center gap-1.5">
            Split after
            <input
              type="number"
              required
              min={1}
              max={wanted - 1}
              className="w-20 rounded border border-trail/60 bg-ground px-2 py-1 text-right"
              value={packs}
              onChange={(event) => setPacks(event.target.value)}
            />
            packs
          </label>
          <Button type="submit" size="small" disabled={busy}>
            Split
          </Button>
        </form>
      )}
      <label className="flex items-center gap-2 text-sm">
        Pace
        <select
          className="rounded border border-trail/60 bg-paper px-2 py-1"
          value={String(run.pace_share)}
          disabled={busy}
          onChange={(event) => onChange({ kind: "pace", ...of, share: Number(event.target.value) })}
        >
          {[...new Set([1, 0.95, 0.9, 0.85, 0.8, 0.7, 0.6, run.pace_share])]
            .sort((one, other) => other - one)
            .map((share) => (
              <option key={share} value={String(share)}>
                {share === 1 ? "all the line can" : `${percent(share)} of it`}
              </option>
            ))}
        </select>
      </label>
    </div>
  );
}

/** A run that is fed now: from now on slower, or ended early; what is planned fits itself around it. */
function WhatHappened({ version, run }: { version: number; run: Run }) {
  const enter = useHappened();
  const navigate = useNavigate();
  const [share, setShare] = useState("80");
  const [packs, setPacks] = useState(String(run.packs));
  const field = "w-16 rounded border border-trail/60 bg-ground px-2 py-1 text-right";
  const of = { line: run.line, run: run.id };
  const send = (happened: Parameters<typeof enter.mutate>[0]["happened"]) =>
    enter.mutate({ version, happened }, { onSuccess: (made) => navigate(`/plan/${made.version}?line=${run.line}`) });
  return (
    <div className="grid gap-2 text-sm">
      <form
        className="flex flex-wrap items-center gap-1.5"
        onSubmit={(event) => {
          event.preventDefault();
          send({ kind: "slowed", ...of, share: Number(share) / 100 });
        }}
      >
        <label className="flex items-center gap-1.5">
          Now at
          <input
            type="number"
            required
            min={10}
            max={100}
            className={field}
            value={share}
            onChange={(event) => setShare(event.target.value)}
          />
          % of its pace
        </label>
        <Button type="submit" size="small" disabled={enter.isPending}>
          Enter
        </Button>
      </form>
      <form
        className="flex flex-wrap items-center gap-1.5"
        onSubmit={(event) => {
          event.preventDefault();
          send({ kind: "ended", ...of, packs: Number(packs) });
        }}
      >
        <label className="flex items-center gap-1.5">
          Ends after
          <input
            type="number"
            required
            min={1}
            className={field}
            value={packs}
            onChange={(event) => setPacks(event.target.value)}
          />
          packs
        </label>
        <Button type="submit" size="small" disabled={enter.isPending}>
          Enter
        </Button>
      </form>
      <p className="text-ink-2 text-xs">
        Entered, it is what has happened: the rest of the plan is fitted around it, and that goes live on the floor. For
        a station that stands, use Downtime.
      </p>
      {enter.isError && <Refused error={enter.error} />}
    </div>
  );
}

/** Where the same article can be made on another line: its lots go there, and both lines are fitted. */
function OtherLine({ version, run }: { version: number; run: Run }) {
  const { day } = useWindowView();
  const change = useChangeLine();
  const navigate = useNavigate();
  const elsewhere = day.products.find((product) => product.id === run.product)?.elsewhere ?? [];
  const others = day.products.filter((product) => elsewhere.includes(product.id));
  if (others.length === 0) return null;
  return (
    <div className="mt-2 grid gap-1.5">
      {others.map((product) => (
        <Button
          key={product.id}
          size="small"
          className="justify-center"
          disabled={change.isPending}
          onClick={() =>
            change.mutate(
              { version, line: run.line, run: run.id, to: product.id },
              { onSuccess: (made) => navigate(`/plan/${made.version}?line=${product.line}`) },
            )
          }
        >
          Make it on the {day.lines.find((line) => line.id === product.line)?.name}
        </Button>
      ))}
      {change.isError && <Refused error={change.error} />}
    </div>
  );
}

function WhyThen({ version, run }: { version: number; run: Run }) {
  const why = useWhy({ version, line: run.line, run: run.id });
  const [, setSearch] = useSearchParams();
  if (why.isError) return <Refused error={why.error} />;
  if (!why.data) return <p className="text-ink-2 text-sm">Calculating …</p>;
  return (
    <>
      <Chain
        links={why.data.chain}
        onSelect={(id) =>
          setSearch((before) => {
            before.set("run", id);
            return before;
          })
        }
      />
      {why.data.set_up.length > 0 && (
        <>
          <Heading>Look at before it starts</Heading>
          {why.data.set_up.map((at) => (
            <SetUpList key={at.station} station={at.station} checks={at.checks} />
          ))}
        </>
      )}
    </>
  );
}

const NAMES: Record<OddBatch, string> = {
  equal: "Equal batches",
  "short-last": "Full ones, the last short",
  "round-up": "All full, rest to stock",
};

type OddProps = { view: PlanView; run: Run; onChange: (change: Change) => void };

function OddLastBatch({ view, run, onChange }: OddProps) {
  const batching = useBatching(view.number, run.id);
  if (batching.isError) return <Refused error={batching.error} />;
  if (!batching.data) return <p className="text-ink-2 text-sm">Calculating …</p>;
  const { chosen, options } = batching.data;
  return (
    <Choice
      stacked
      label="Last batch"
      value={chosen as OddBatch}
      onChange={(policy) => onChange({ kind: "odd", line: run.line, run: run.id, odd_batch: policy })}
      options={options.map((option) => ({
        value: option.policy as OddBatch,
        label: (
          <>
            <span className="font-semibold">{NAMES[option.policy as OddBatch]}</span>
            <span className="block text-ink-2 text-xs">
              {plural(option.pieces.length, "batch", "batches")}, emptiest {percent(option.least_fill)},{" "}
              {option.surplus_packs ? `${whole(option.surplus_packs)} packs to stock` : "nothing over"}
            </span>
          </>
        ),
      }))}
    />
  );
}
