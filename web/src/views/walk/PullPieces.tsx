/** Pieces that are pulled off the line at a stop: how many, and one tap for the cause. Network or not. */
import { useState } from "react";
import { type Clock, plural, whole } from "../../app/format";
import { WASTE_CAUSES, type WasteCause } from "../../ui/wasteCauses";
import type { Stop } from "./due";
import { Keypad } from "./Keypad";
import { isPulled, type Kept, type KnownRound, keepPulled, uuid, type Walker } from "./outbox";

type Props = { known: KnownRound; box: readonly Kept[]; at: Stop; clock: Clock; walker: Walker };

export function PullPieces({ known, box, at, clock, walker }: Props) {
  const [text, setText] = useState("");
  const [counted, setCounted] = useState<number>();
  const { round, line } = known;
  const stored = round.pulled.filter((one) => one.station === at.station);
  const there = new Set(stored.map((one) => one.uuid));
  const waits = box.filter(isPulled).filter((one) => one.pulled.station === at.station && !there.has(one.pulled.uuid));
  const pieces = [...stored, ...waits.map((one) => one.pulled)];
  const pull = (cause: WasteCause) => {
    if (counted === undefined) return;
    const when = clock.stamp(clock.minuteNow());
    const entry = { uuid: uuid(), window: round.number, line, station: at.station, pieces: counted, cause, at: when };
    void keepPulled({ ...entry, note: "", author: walker.name }, `${plural(counted, "piece")} pulled, ${cause}`);
    setCounted(undefined);
    setText("");
  };
  return (
    <details className="mt-4 border-rule border-t pt-3">
      <summary className="min-h-[48px] cursor-pointer content-center font-bold">
        Pull pieces off here
        {pieces.length > 0 && (
          <span className="font-normal text-ink-2">
            : {whole(pieces.reduce((sum, one) => sum + one.pieces, 0))} in the last hours
          </span>
        )}
      </summary>
      {counted === undefined ? (
        <>
          <p className="mt-1 text-ink-2">
            Pieces: <b className="text-ink text-xl">{text || "how many?"}</b>
          </p>
          <Keypad
            text={text}
            onText={(typed) => setText(typed.replace(/\D/g, "").slice(0, 5))}
            onEnter={() => Number(text) > 0 && setCounted(Number(text))}
            enter="Next: why"
            label="pieces pulled"
          />
        </>
      ) : (
        <>
          <p className="mt-1 flex items-center justify-between gap-3">
            <b className="text-xl">{plural(counted, "piece")}: why?</b>
            <button type="button" className="min-h-[48px] px-3 underline" onClick={() => setCounted(undefined)}>
              Change the number
            </button>
          </p>
          <div className="mt-2 grid grid-cols-[repeat(auto-fit,minmax(9rem,1fr))] gap-3">
            {WASTE_CAUSES.map((cause) => (
              <button
                key={cause}
                type="button"
                onClick={() => pull(cause)}
                className="min-h-16 rounded-xl border-2 border-trail/60 bg-paper px-3 font-bold text-lg leading-6 active:bg-crumb"
              >
                {cause}
              </button>
            ))}
          </div>
        </>
      )}
      {pieces.length > 0 && (
        <ul className="mt-3 text-ink-2">
          {pieces
            .slice(-5)
            .reverse()
            .map((one) => (
              <li key={one.uuid}>
                {clock.time(clock.minuteAt(one.at))}: {plural(one.pieces, "piece")}, {one.cause}, {one.author}
              </li>
            ))}
        </ul>
      )}
      {waits
        .filter((one) => one.why)
        .map((one) => (
          <p key={one.pulled.uuid} role="alert" className="text-ember">
            Not taken: {one.why}
          </p>
        ))}
    </details>
  );
}
