/** The probe in the dough: one number to type, and what it means for this batch and the next. */
import { type FormEvent, useState } from "react";
import type { Card } from "../../api/client";
import { useProbe, useProbeShown, useWithdrawProbe } from "../../api/queries";
import { percent } from "../../app/format";
import { useUnits } from "../../app/units";
import { Button, RefusedOrAsked } from "../../ui/parts";
import { Withdraw } from "../../ui/Withdraw";

export function ProbeEntry({ plan, card }: { plan: number; card: Card }) {
  const units = useUnits();
  const probe = useProbe();
  const probed = useProbeShown(plan, card.run);
  const read = probed.data?.value;
  const [text, setText] = useState(card.probe ? units.shown(card.probe.dough_c, "temperature") : "");
  const celsius = units.typed(text, "temperature");
  const save = (confirmed: boolean) =>
    celsius !== undefined &&
    probe.mutate({
      plan,
      run: card.run,
      batch: card.number,
      dough_c: Number(celsius),
      units: units.system,
      confirmed,
    });
  const submit = (event: FormEvent) => {
    event.preventDefault();
    save(false);
  };
  return (
    <form onSubmit={submit} className="no-print mt-3 flex flex-wrap items-end gap-4 border-rule border-t pt-3">
      <label className="text-sm">
        Probe in the dough after mixing
        <span className="mt-1 flex items-center gap-2">
          <input
            inputMode="decimal"
            autoComplete="off"
            value={text}
            onChange={(event) => setText(event.target.value)}
            className="w-32 rounded-lg border-2 border-ink bg-paper px-3 py-2 font-bold text-2xl"
          />
          <span className="text-lg">{units.name("temperature")}</span>
        </span>
      </label>
      {read != null && (
        <Button className="min-h-12" onClick={() => setText(units.shown(read, "temperature"))}>
          Take {units.shown(read, "temperature")} {units.name("temperature")} from the{" "}
          {probed.data?.simulated && "simulated "}probe
        </Button>
      )}
      <Button type="submit" weight="strong" disabled={celsius === undefined || probe.isPending} className="min-h-12">
        {card.probe ? "Correct it" : "Save"}
      </Button>
      <div className="flex-1 text-sm">{card.probe ? <Meaning card={card} /> : <Wanted card={card} />}</div>
      {probe.isError && (
        <div className="basis-full">
          <RefusedOrAsked error={probe.error} onConfirm={() => save(true)} />
        </div>
      )}
      {card.probe && <WithdrawProbe plan={plan} card={card} />}
    </form>
  );
}

/** A reading that was wrong is withdrawn with a reason, and nothing learns from it any more. */
function WithdrawProbe({ plan, card }: { plan: number; card: Card }) {
  const withdraw = useWithdrawProbe();
  return (
    <Withdraw
      what="Withdraw the reading"
      onWithdraw={(reason) => withdraw.mutate({ plan, run: card.run, batch: card.number, reason })}
      busy={withdraw.isPending}
      error={withdraw.error}
    />
  );
}

function Wanted({ card }: { card: Card }) {
  const units = useUnits();
  const shown = (celsius: number) => units.shown(celsius, "temperature");
  return (
    <p className="text-ink-2">
      {shown(card.dough_temperature_c - card.dough_tolerance_c)} to{" "}
      {shown(card.dough_temperature_c + card.dough_tolerance_c)} {units.name("temperature")} is good. Whatever it reads,
      the next batches of {card.product_name} from {card.mixer} learn from it.
    </p>
  );
}

function Meaning({ card }: { card: Card }) {
  const units = useUnits();
  if (!card.probe) return null;
  const { above_c, good, yeast_pace, lesson } = card.probe;
  const amount = `${units.shown(Math.abs(above_c), "temperature difference")} ${units.name("temperature difference")}`;
  return (
    <>
      <p className={good ? "font-semibold text-steam" : "font-semibold text-ember"}>
        {amount} {above_c < 0 ? "below" : "above"} the target.
      </p>
      <p className="text-ink-2">
        Its yeast works at {percent(yeast_pace)} of the pace wanted until it takes the proofer's temperature. {lesson}
      </p>
    </>
  );
}
