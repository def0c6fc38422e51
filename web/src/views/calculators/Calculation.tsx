/** One calculation: its fields in the user's units, kept in the address, and the answer with its arithmetic. */
import { useId } from "react";
import type { Answer, Calculator } from "../../api/client";
import { useAnswer } from "../../api/queries";
import { type Units, useUnits } from "../../app/units";
import { Choice } from "../../ui/Choice";
import { Button, Heading, Notice, Panel, Refused } from "../../ui/parts";
import { useAddress } from "../../ui/useAddress";

type Field = Calculator["fields"][number];

export function Calculation({ entry }: { entry: Calculator }) {
  const units = useUnits();
  const [search, change] = useAddress();
  const metric = (field: Field) => search.get(field.name) ?? field.first;
  const question = Object.fromEntries(entry.fields.map((field) => [field.name, metric(field)]));
  const complete = entry.fields.every((field) => metric(field).trim() !== "");
  const answer = useAnswer(entry.id, question, complete);
  const set = (field: Field, value: string) => change((parameters) => parameters.set(field.name, value));
  const begin = () =>
    change((parameters) => {
      for (const field of entry.fields) parameters.delete(field.name);
    });
  return (
    <div className="grid content-start gap-2 xl:grid-cols-[1fr_1fr]">
      <Panel label={entry.name} className="p-5">
        <h2 className="font-bold text-lg leading-6">{entry.name}</h2>
        <p className="mb-3 text-ink-2 text-sm">{entry.question}</p>
        <div className="grid gap-2">
          {entry.fields.map((field) => (
            <Asked
              key={`${field.name}-${units.system}`}
              field={field}
              metric={metric(field)}
              units={units}
              onChange={(value) => set(field, value)}
            />
          ))}
        </div>
        {entry.fields.some((field) => search.has(field.name)) && (
          <Button className="mt-4" onClick={begin}>
            Begin again
          </Button>
        )}
      </Panel>
      <Panel label="Answer" className="self-start p-5">
        {answer.isError ? (
          <Refused error={answer.error} />
        ) : answer.data ? (
          <Answered answer={answer.data} units={units} said={entry.id === BOTH_SYSTEMS ? (text) => text : units.text} />
        ) : (
          <p className="text-ink-2 text-sm">Calculating …</p>
        )}
      </Panel>
    </div>
  );
}

type AskedProps = { field: Field; metric: string; units: Units; onChange: (metric: string) => void };

function Asked({ field, metric, units, onChange }: AskedProps) {
  const id = useId();
  if (field.choices.length)
    return (
      <div className="flex flex-wrap items-center justify-between gap-2">
        <span className="text-sm">{field.title}</span>
        <Choice
          label={field.title}
          value={metric}
          onChange={onChange}
          options={field.choices.map((choice) => ({ value: choice, label: choice }))}
        />
      </div>
    );
  const look = "rounded-lg border border-trail/60 bg-ground px-2.5 py-1.5 text-base";
  if (field.many)
    return (
      <div>
        <label htmlFor={id} className="text-sm">
          {field.title}
          {field.quantity && `, ${units.name(field.quantity)}`}
        </label>
        <textarea
          id={id}
          rows={field.first.length > 40 ? 4 : 1}
          defaultValue={eachOf(metric, (figure) => plain(units.shown(figure, field.quantity, 6)))}
          onChange={(event) => onChange(eachTyped(event.target.value, (text) => units.typed(text, field.quantity)))}
          className={`mt-1 w-full ${look}`}
        />
      </div>
    );
  const value = Number(metric);
  const shown = Number.isFinite(value) ? plain(units.shown(value, field.quantity, 6)) : metric;
  const within = (bound: number) => plain(units.shown(bound, field.quantity, 6));
  const range =
    field.least != null && field.most != null ? `${within(field.least)} to ${within(field.most)}` : undefined;
  return (
    <div className="flex items-center justify-between gap-3">
      <label htmlFor={id} className="text-sm">
        {field.title}
      </label>
      <span className="flex items-center gap-2">
        <input
          id={id}
          inputMode="decimal"
          defaultValue={shown}
          title={range}
          onChange={(event) => onChange(units.typed(event.target.value, field.quantity) ?? event.target.value)}
          className={`w-28 text-right ${look}`}
        />
        <span className="w-28 text-ink-2 text-xs">{units.name(field.quantity, field.unit)}</span>
      </span>
    </div>
  );
}

/** The calculator that shows a figure in both systems. */
const BOTH_SYSTEMS = "units";

const SPACES = /\s+/;
const eachOf = (metric: string, shown: (figure: number) => string) =>
  metric
    .trim()
    .split(SPACES)
    .map((part) => (Number.isFinite(Number(part)) ? shown(Number(part)) : part))
    .join(" ");

/** What was typed as the API takes it; a part that is no number stays, for the refusal to name. */
const eachTyped = (text: string, typed: (part: string) => string | undefined) =>
  text
    .trim()
    .split(SPACES)
    .map((part) => typed(part) ?? part)
    .join(" ");

/** A figure as it is typed: no thousands sign, no empty decimals. */
const plain = (text: string) => String(Number(text.replaceAll(",", "")));

type AnsweredProps = { answer: Answer; units: Units; said: (text: string) => string };

function Answered({ answer, units, said }: AnsweredProps) {
  return (
    <>
      {answer.verdict && <Notice tone={answer.good ? "good" : "wrong"} title={said(answer.verdict)} />}
      <dl className="mt-2 grid gap-2">
        {answer.figures.map((figure, place) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: an answer's figures stand in a fixed order, names may repeat
          <div key={place} className="flex items-baseline justify-between gap-4 border-rule border-b pb-1">
            <dt className="text-sm">{figure.name}</dt>
            <dd className="text-right">
              <span className="font-bold text-2xl">{units.shown(figure.value, figure.quantity, figure.decimals)}</span>{" "}
              <span className="text-ink-2 text-sm">{units.name(figure.quantity, figure.unit)}</span>
            </dd>
          </div>
        ))}
      </dl>
      <Heading>How it was calculated</Heading>
      <ul className="grid gap-1 text-sm">
        {answer.working.map((line) => (
          <li key={line}>{said(line)}</li>
        ))}
      </ul>
      {answer.cautions.map((caution) => (
        <p key={caution.about} className="mt-4 border-ember border-l-4 pl-3 text-xs leading-4">
          <strong className="block text-sm">{caution.about}</strong>
          {caution.text}
        </p>
      ))}
    </>
  );
}
