/** One run: its figures, why it is not earlier, and the choices for its odd last batch. */
import { Link, useNavigate } from "react-router";
import type { PlanView, Run } from "../../api/client";
import { type OddBatch, useBatching, usePlanDay } from "../../api/queries";
import { oneDecimal, percent, plural, whole } from "../../app/format";
import { useUnits } from "../../app/units";
import { Swatch } from "../../charts/dough";
import { Choice } from "../../ui/Choice";
import { buttonLook, Heading, Refused, Row, WayStop } from "../../ui/parts";
import { useDayView } from "../day";

export function RunPanel({ view, run }: { view: PlanView; run: Run }) {
  const { clock, names, tones } = useDayView();
  const first = run.batches[0];
  const units = useUnits();
  return (
    <>
      <h2 className="font-bold text-lg leading-6">
        <Swatch index={tones.get(run.product) ?? 0} /> {run.id} {names.get(run.product)}
      </h2>
      <dl className="mt-2 border-rule border-t pt-1.5">
        <Row name="Packs">{whole(run.packs)}</Row>
        {run.packs !== run.packs_wanted && <Row name="of these to stock">{whole(run.packs - run.packs_wanted)}</Row>}
        <Row name="Pace at the divider">{whole(run.scaled_per_h)} /h</Row>
        {first && <Row name="First dough">{clock.moment(first.start_min)}</Row>}
        <Row name="First piece made up">{clock.moment(run.start_min)}</Row>
        <Row name="First pack">{clock.moment(run.first_pack_min)}</Row>
        <Row name="Last pack">{clock.moment(run.last_pack_min)}</Row>
        {first && (
          <Row name="Batches">
            {run.batches.length} of {units.shown(first.dough_g / 1000, "dough mass", 2)}{" "}
            {units.name("dough mass", "kg")}
          </Row>
        )}
      </dl>
      <Link to={`/dough/${view.number}/${run.id}/1`} className={`${buttonLook()} mt-2 w-full justify-center`}>
        Batch cards of {run.id}
      </Link>
      <Heading>Why not earlier</Heading>
      <WhyNotEarlier view={view} run={run} />
      <Heading>The odd last batch</Heading>
      <OddLastBatch view={view} run={run} />
    </>
  );
}

function WhyNotEarlier({ view, run }: { view: PlanView; run: Run }) {
  const { clock } = useDayView();
  const { binding } = run;
  if (binding.kind === "opening")
    return (
      <ol>
        <WayStop binding>The shift opens {clock.moment(0)}</WayStop>
        <WayStop>
          First dough, and what is prepared for it, mixed and rested; divider from {clock.moment(run.start_min)}
        </WayStop>
      </ol>
    );
  if (binding.kind === "freshness")
    return (
      <ol>
        <WayStop binding>Packs made sooner would be too old for their lorry</WayStop>
        <WayStop>Divider from {clock.moment(run.start_min)}</WayStop>
      </ol>
    );
  if (binding.kind === "mixers")
    return (
      <ol>
        <WayStop binding>
          Nothing is free sooner at the {binding.where}
          {binding.after && `, after ${binding.after}`}
        </WayStop>
        {binding.reasons.map((reason) => (
          <WayStop key={reason.what}>
            {reason.what}, {oneDecimal(reason.minutes)} min
          </WayStop>
        ))}
        <WayStop>Divider from {clock.moment(run.start_min)}</WayStop>
      </ol>
    );
  const enters = view.timeline.ribbons
    .find((ribbon) => ribbon.run === run.id)
    ?.stops.find((stop) => stop.station === binding.station)?.first_in;
  return (
    <ol>
      <WayStop>
        {binding.after} has its last piece in the {binding.where}
        {enters !== undefined && ` at ${clock.moment(enters - binding.gap_min)}`}
      </WayStop>
      {binding.reasons.map((reason) => (
        <WayStop key={reason.what} binding>
          {reason.what}, {oneDecimal(reason.minutes)} min
        </WayStop>
      ))}
      {enters !== undefined && (
        <WayStop>
          {run.id} enters {clock.moment(enters)}
        </WayStop>
      )}
    </ol>
  );
}

/** The choices already made in this plan, so that another one keeps them. */
const policiesOf = (view: PlanView) =>
  Object.fromEntries(view.plan.runs.map((run) => [run.product, run.split.policy as OddBatch]));

const NAMES: Record<OddBatch, string> = {
  equal: "Equal batches",
  "short-last": "Full ones, the last short",
  "round-up": "All full, rest to stock",
};

function OddLastBatch({ view, run }: { view: PlanView; run: Run }) {
  const batching = useBatching(view.number, run.id);
  const replan = usePlanDay();
  const navigate = useNavigate();
  if (batching.isError) return <Refused error={batching.error} />;
  if (!batching.data) return <p className="text-ink-2 text-sm">Reckoning …</p>;
  const { chosen, options, product } = batching.data;
  const choose = (policy: OddBatch) =>
    replan.mutate(
      { line: run.line, odd_batch: { ...policiesOf(view), [product]: policy } },
      { onSuccess: (made) => navigate(`/plan/${made.number}`) },
    );
  return (
    <>
      <Choice
        stacked
        label="The odd last batch"
        value={chosen as OddBatch}
        onChange={choose}
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
      {replan.isPending && <p className="text-ink-2 text-xs">Planning …</p>}
      {replan.isError && <Refused error={replan.error} />}
      <p className="mt-1 text-muted text-xs">Another choice plans the day again, for all runs of this product.</p>
    </>
  );
}
