/** One check at a stop: one tap or one figure; what it may be, what was last, and what to do when it is out. */
import { type FormEvent, type ReactNode, useState } from "react";
import type { Schemas } from "../../api/client";
import { type Clock, digits, duration } from "../../app/format";
import { useUnits } from "../../app/units";
import { Button } from "../../ui/parts";
import { type Asked, isGood, isWithin, meanOf, sampleOf, stateOf } from "./due";
import { Keypad } from "./Keypad";
import { Last } from "./Last";
import { limitsOf } from "./limits";

/** What is entered: figures in metric units, or a word; or why it cannot be taken. */
export type Answer = {
  measured: number[];
  word: string | null;
  cannot: boolean;
  note: string;
  says: string;
  good: boolean | null;
};

type Props = {
  asked: Asked;
  now: number;
  clock: Clock;
  open: boolean;
  batch: string | null;
  reads: Schemas["ReadNow"] | undefined;
  onOpen: () => void;
  onAnswer: (answer: Answer) => void;
  onLetGo: (order: number) => void;
};

export function CheckCard({ asked, now, clock, open, batch, reads, onOpen, onAnswer, onLetGo }: Props) {
  const { check, due, shown } = asked;
  const { inspection } = check;
  const [again, setAgain] = useState(false);
  const [writes, setWrites] = useState<"note" | "cannot">();
  const [note, setNote] = useState("");
  const state = stateOf(asked, now);
  const asks = inspection.asks;
  const answer = (found: Pick<Answer, "measured" | "word" | "says" | "good">) => {
    setAgain(false);
    setWrites(undefined);
    setNote("");
    onAnswer({ ...found, cannot: false, note });
  };
  const isAsked = !shown || again;
  return (
    <article aria-label={inspection.name} className="border-rule border-t py-4 first:border-t-0 first:pt-0">
      <header className="flex flex-wrap items-baseline justify-between gap-x-4">
        <h3 className="font-bold text-xl">{inspection.name}</h3>
        <When state={state} due={due} now={now} clock={clock} />
      </header>
      <p className="text-ink-2">
        <Limits asked={asked} />
        {[due.hint, batch].filter(Boolean).join(", ")}
      </p>
      {shown && !again && <Found asked={asked} clock={clock} onAgain={() => setAgain(true)} onLetGo={onLetGo} />}
      {isAsked && asks.kind === "chosen" && (
        <div className="mt-2 grid grid-cols-[repeat(auto-fit,minmax(8rem,1fr))] gap-3">
          {[asks.good, ...asks.bad].map((word) => (
            <button
              key={word}
              type="button"
              onClick={() => answer({ measured: [], word, says: word, good: word === asks.good })}
              className="h-16 rounded-xl border-2 border-trail/60 bg-paper px-3 font-bold text-lg leading-6 active:bg-crumb"
            >
              {word}
            </button>
          ))}
        </div>
      )}
      {isAsked && asks.kind !== "chosen" && (
        <Measuring
          asked={asked}
          clock={clock}
          open={open || again}
          reads={reads}
          sample={sampleOf(check)}
          onOpen={onOpen}
          onAnswer={answer}
        />
      )}
      {isAsked && (
        <div className="mt-2 flex flex-wrap gap-2">
          <Small onClick={() => setWrites(writes === "cannot" ? undefined : "cannot")}>cannot take it</Small>
          <Small onClick={() => setWrites(writes === "note" ? undefined : "note")}>add a word</Small>
          {again && <Small onClick={() => setAgain(false)}>leave it as it is</Small>}
        </div>
      )}
      {writes && isAsked && (
        <Word
          cannot={writes === "cannot"}
          note={note}
          onNote={setNote}
          onCannot={() => {
            onAnswer({ measured: [], word: null, cannot: true, note, says: "could not be taken", good: null });
            setWrites(undefined);
            setNote("");
          }}
        />
      )}
    </article>
  );
}

const Small = ({ children, onClick }: { children: ReactNode; onClick: () => void }) => (
  <button type="button" onClick={onClick} className="min-h-[48px] rounded-lg border border-trail/60 px-4 text-ink-2">
    {children}
  </button>
);

function When({ state, due, now, clock }: { state: string; due: Asked["due"]; now: number; clock: Clock }) {
  if (state === "late")
    return <span className="font-semibold text-ember">{duration(Math.max(1, now - due.late_min))} late</span>;
  if (state === "due") return <span className="font-semibold text-crust">due now</span>;
  if (state === "next") return <span className="text-ink-2">at {clock.time(due.due_min)}</span>;
  return null;
}

/** What a figure may be, in words. */
function Limits({ asked }: { asked: Asked }) {
  const said = limitsOf(asked, useUnits());
  return said && <span className="mr-3">{said}</span>;
}

type FoundProps = { asked: Asked; clock: Clock; onAgain: () => void; onLetGo: (order: number) => void };

function Found({ asked: { check, shown }, clock, onAgain, onLetGo }: FoundProps) {
  const units = useUnits();
  if (!shown) return null;
  const { inspection } = check;
  return (
    <div className="mt-2">
      <p className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <span className={`font-bold text-xl ${shown.good === false ? "text-ember" : "text-steam"}`}>
          {units.text(shown.says)}
          {shown.good === false ? ", out" : shown.good ? " ✓" : ""}
        </span>
        <span className="text-ink-2">
          {clock.time(shown.at)}
          {shown.why ? "" : shown.waits ? ", waits for the network" : ", stored"}
        </span>
        {!shown.why && <Small onClick={onAgain}>enter again</Small>}
      </p>
      {shown.why && (
        <div role="alert" className="mt-2 border-ember border-l-4 py-1 pl-3">
          <p className="font-semibold text-ember">Not taken. {shown.why}</p>
          {shown.order !== undefined && <Small onClick={() => onLetGo(shown.order as number)}>enter anew</Small>}
        </div>
      )}
      {shown.good === false && !shown.why && (
        <div role="alert" className="mt-2 border-ember border-l-4 py-1 pl-3">
          <p className="whitespace-pre-line font-semibold text-lg">{inspection.action}</p>
          {inspection.holds && (
            <p className="text-ember">All that has passed since it was good is held until it is released.</p>
          )}
        </div>
      )}
    </div>
  );
}

type MeasuringProps = Pick<Props, "asked" | "clock" | "open" | "reads" | "onOpen"> & {
  sample: number;
  onAnswer: (found: Pick<Answer, "measured" | "word" | "says" | "good">) => void;
};

/** A figure, or several of a sample: taken, asked about once, or refused in words. */
function Measuring({ asked, clock, open, reads, sample, onOpen, onAnswer }: MeasuringProps) {
  const { check, due } = asked;
  const units = useUnits();
  const [text, setText] = useState("");
  const [values, setValues] = useState<number[]>([]);
  const [said, say] = useState<{ value: number; odd: boolean; text: string }>();
  const unit = units.name(check.quantity, check.unit);
  const shown = (value: number) => `${units.shown(value, check.quantity)} ${unit}`;
  const between = ([low, high]: readonly number[]) => `${shown(low ?? 0)} to ${shown(high ?? 0)}`;
  const take = (value: number) => {
    say(undefined);
    setText("");
    const all = [...values, value];
    if (all.length < sample) {
      setValues(all);
      return;
    }
    setValues([]);
    onAnswer({ measured: all, word: null, says: `${digits(meanOf(all), 0, 1)} ${check.unit}`, good: isGood(due, all) });
  };
  const enter = () => {
    const value = Number(units.typed(text, check.quantity));
    if (text === "" || !Number.isFinite(value)) return;
    if (!isWithin(value, due.possible))
      say({ value, odd: false, text: `${shown(value)} cannot be. Allowed: ${between(due.possible ?? [])}.` });
    else if (!isWithin(value, due.usual))
      say({ value, odd: true, text: `${shown(value)} is far from usual, ${between(due.usual ?? [])}. Is it so?` });
    else take(value);
  };
  if (!open)
    return (
      <Button className="mt-2 min-h-14 px-6 text-lg" onClick={onOpen}>
        Enter a figure
      </Button>
    );
  return (
    <div className="mt-2">
      <div className="flex flex-wrap items-center gap-4">
        <label className="flex items-center gap-3">
          <span className="sr-only">
            {check.inspection.name}
            {sample > 1 && `, ${values.length + 1} of ${sample}`}
          </span>
          <input
            inputMode="none"
            value={text}
            onChange={(event) => setText(event.target.value.replace(",", "."))}
            onKeyDown={(event) => event.key === "Enter" && enter()}
            className="h-20 w-44 rounded-xl border-[3px] border-ink bg-paper text-center font-bold text-4xl"
          />
          <span className="text-xl">{unit}</span>
        </label>
        <div className="min-w-52 flex-1">
          {reads?.value != null && (
            <p className="mb-1 text-ink-2">
              the instrument says <b>{shown(reads.value)}</b>
            </p>
          )}
          <Last check={check} due={due} clock={clock} />
        </div>
      </div>
      {sample > 1 && (
        <p className="mt-1 text-ink-2">
          {values.length + 1} of {sample}
          {values.length > 0 && `: ${values.map((value) => units.shown(value, check.quantity)).join(", ")}`}
        </p>
      )}
      {said && (
        <div role="alert" className="mt-2 border-ember border-l-4 py-1 pl-3">
          <p className="font-semibold text-lg">{said.text}</p>
          {said.odd && (
            <span className="mt-1 flex gap-2">
              <Button className="min-h-[48px] text-base" onClick={() => take(said.value)}>
                Yes, it is so
              </Button>
              <Button
                className="min-h-[48px] text-base"
                onClick={() => {
                  say(undefined);
                  setText("");
                }}
              >
                No, again
              </Button>
            </span>
          )}
        </div>
      )}
      <Keypad
        text={text}
        onText={(next) => {
          say(undefined);
          setText(next);
        }}
        onEnter={enter}
        enter={sample > 1 && values.length < sample - 1 ? "Next" : "Enter"}
        label={check.inspection.name}
      />
    </div>
  );
}

type WordProps = { cannot: boolean; note: string; onNote: (note: string) => void; onCannot: () => void };

function Word({ cannot, note, onNote, onCannot }: WordProps) {
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (cannot) onCannot();
  };
  return (
    <form onSubmit={submit} className="mt-2 flex flex-wrap items-center gap-2">
      <input
        aria-label={cannot ? "Why it cannot be taken" : "A word to it"}
        placeholder={cannot ? "why it cannot be taken" : "a word, stored with the entry"}
        maxLength={200}
        value={note}
        onChange={(event) => onNote(event.target.value)}
        className="min-h-[48px] min-w-52 flex-1 rounded-lg border border-trail/60 bg-paper px-3"
      />
      {cannot && (
        <Button type="submit" className="min-h-[48px]" disabled={!note.trim()}>
          Enter that
        </Button>
      )}
    </form>
  );
}
