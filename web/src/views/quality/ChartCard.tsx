/** A product at a check: its samples against their limits, and what they say. */
import type { Schemas } from "../../api/client";
import { digits, plural, whole } from "../../app/format";
import { useUnits } from "../../app/units";
import { Notice, Panel } from "../../ui/parts";
import { useWindowView } from "../planningWindow";
import { SampleChart } from "./SampleChart";

type Chart = Schemas["QualityChart"];

export function ChartCard({ chart, currency }: { chart: Chart; currency: string | null }) {
  const { names } = useWindowView();
  const units = useUnits();
  const unit = units.name(chart.quantity, chart.unit);
  const figure = (value: number, decimals = 1) =>
    units.system === "us" && chart.quantity ? units.shown(value, chart.quantity) : digits(value, decimals);
  const last = chart.chart?.points.at(-1);
  return (
    <Panel label={`${chart.name}, ${names.get(chart.product) ?? chart.product}`} className="p-4">
      <div className="flex flex-wrap items-baseline justify-between gap-x-4">
        <h3 className="font-bold">{names.get(chart.product) ?? chart.product}</h3>
        <p className="text-ink-2 text-xs">
          {chart.name}, {plural(chart.samples, "sample")}
          {chart.chart && chart.chart.size > 1 && ` of ${chart.chart.size}`}
        </p>
      </div>
      {chart.chart ? (
        <>
          <SampleChart chart={chart.chart} target={chart.target} unit={unit} figure={figure} />
          <p className="text-sm">
            Mean {figure(chart.chart.centre, 2)} {unit}
            {chart.target != null && `, target ${figure(chart.target, 2)} ${unit}`}; a single one varies by{" "}
            {figure(chart.chart.deviation, 2)} {unit}.
          </p>
          {last && last.broken.length > 0 && (
            <p className="mt-1 font-semibold text-ember text-sm">Not steady: {last.broken.join("; ")}.</p>
          )}
        </>
      ) : (
        <p className="mt-2 text-ink-2 text-sm">{chart.why}.</p>
      )}
      {chart.advice && (
        <div className="mt-2">
          {chart.advice.move == null ? (
            <Notice tone="good" title="Leave the divider: what is seen is noise." />
          ) : (
            <Notice
              tone="wrong"
              title={`Move the divider by ${chart.advice.move > 0 ? "+" : "−"}${figure(Math.abs(chart.advice.move), 1)} ${unit}.`}
            >
              The last {chart.advice.samples === 1 ? "sample is" : `${chart.advice.samples} samples are`}{" "}
              {figure(Math.abs(chart.advice.off), 2)} {unit} {chart.advice.off > 0 ? "above" : "below"} the target:{" "}
              {chart.advice.because}.
            </Notice>
          )}
        </div>
      )}
      {chart.giveaway && (
        <p className="mt-2 text-sm">
          {chart.giveaway.grams >= 0 ? "Given away" : "Too little"}: {figure(Math.abs(chart.giveaway.grams), 2)} {unit}{" "}
          a piece, {units.shown(Math.abs(chart.giveaway.kg_per_h), "dough mass")} {units.name("dough mass", "kg")} an
          hour
          {chart.giveaway.money_per_h != null &&
            currency &&
            `, ${digits(Math.abs(chart.giveaway.money_per_h), 2)} ${currency}`}
          .
          {chart.giveaway.hours_a_year > 0 && (
            <span className="block text-ink-2 text-xs">
              In a year of orders like these, {whole(chart.giveaway.hours_a_year)} h at its pace:{" "}
              {units.shown(Math.abs(chart.giveaway.kg_a_year) / 1_000, "yearly mass")} {units.name("yearly mass", "t")}
              {chart.giveaway.money_a_year != null &&
                currency &&
                `, ${whole(Math.abs(chart.giveaway.money_a_year))} ${currency}`}
              .
            </span>
          )}
        </p>
      )}
      {chart.verdict && <Law verdict={chart.verdict} />}
    </Panel>
  );
}

function Law({ verdict }: { verdict: NonNullable<Chart["verdict"]> }) {
  const units = useUnits();
  return (
    <details className="mt-2 text-sm">
      <summary className={verdict.kept ? "text-steam" : "font-semibold text-ember"}>
        {verdict.kept ? "All rules of the law are kept" : "A rule of the law is not kept"} by the last{" "}
        {plural(verdict.count, "pack")} ({verdict.system})
      </summary>
      <ul className="mt-1 list-disc pl-5">
        {verdict.rules.map((rule) => (
          <li key={rule.rule} className={rule.kept ? "" : "text-ember"}>
            {rule.rule}: {units.text(rule.arithmetic)}
          </li>
        ))}
      </ul>
      <p className="text-ink-2 text-xs">Local law decides.</p>
    </details>
  );
}
