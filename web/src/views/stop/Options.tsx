/** What can be done about the plan, as each option is found: a plan that was repaired and passed the check. */
import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { Refusal, type Schemas } from "../../api/client";
import { optionsOf, type StopRequest, useTakeOption } from "../../api/queries";
import { duration, percent, plural, whole } from "../../app/format";
import { useUnits } from "../../app/units";
import { Button, Refused } from "../../ui/parts";
import { signedPoints } from "../plan/points";
import { useWindowView } from "../planningWindow";
import { OPTION } from "./words";

type Option = Schemas["StopOption"];
type Come = { asked: string; options: Option[]; cheapest?: number; version?: number; error?: Refusal };

export function useOptions(stop: StopRequest | undefined): Come {
  const asked = JSON.stringify(stop);
  const [come, set] = useState<Come>({ asked: "", options: [] });
  useEffect(() => {
    if (asked === undefined) return;
    const ends = new AbortController();
    set({ asked, options: [] });
    const read = async () => {
      try {
        for await (const one of optionsOf(JSON.parse(asked) as StopRequest, ends.signal))
          set((before) =>
            "cheapest" in one ? { ...before, ...one } : { ...before, options: [...before.options, one] },
          );
      } catch (error) {
        if (!ends.signal.aborted)
          set((before) => ({ ...before, error: error instanceof Refusal ? error : new Refusal(0, String(error), []) }));
      }
    };
    void read();
    return () => ends.abort();
  }, [asked]);
  return come;
}

export function Options({ stop, come }: { stop: StopRequest; come: Come }) {
  const take = useTakeOption();
  const navigate = useNavigate();
  const units = useUnits();
  const { names, waveNames } = useWindowView();
  const { options, cheapest, version, error } = come;
  if (error) return <Refused error={error} />;
  return (
    <>
      <table className="mt-2 w-full text-sm">
        <thead className="text-ink-2 text-xs">
          <tr className="text-left">
            <th className="py-1 pr-3 font-semibold">Option</th>
            <th className="py-1 pr-3 text-right font-semibold">Wasted</th>
            <th className="py-1 pr-3 font-semibold">Lorries</th>
            <th className="py-1 pr-3 text-right font-semibold">Points</th>
            <th />
          </tr>
        </thead>
        <tbody>
          {options.map((option, place) => (
            <tr
              key={`${option.kind} ${option.minutes}`}
              className={`border-rule border-t ${place === cheapest ? "bg-crumb/50" : ""}`}
            >
              <td className="py-2 pr-3 align-top">
                <b>
                  {OPTION[option.kind]}, {duration(option.minutes)}
                </b>
                {place === cheapest && (
                  <span className="ml-2 font-semibold text-steam text-xs">cheapest for the likely time</span>
                )}
                <span className="block text-ink-2 text-xs">
                  {plural(option.moved.length, "run")} moved
                  {option.share != null && `, at ${percent(option.share)} of the pace`}
                </span>
              </td>
              <td className="py-2 pr-3 text-right align-top">
                {option.scrap_kg < 0.05
                  ? "nothing"
                  : `${whole(option.scrap_pieces)} pieces, ${units.shown(option.scrap_kg, "dough mass")} ${units.name("dough mass", "kg")}`}
              </td>
              <td className="py-2 pr-3 align-top text-xs">
                {option.lorries.length === 0 && "none later"}
                {option.lorries.map((late) => (
                  <span key={`${late.wave} ${late.product}`} className="block text-ember">
                    {waveNames.get(late.wave)}: {names.get(late.product)},{" "}
                    {late.short > late.short_before
                      ? `${whole(late.short - late.short_before)} packs more short`
                      : "later"}
                  </span>
                ))}
              </td>
              <td className="py-2 pr-3 text-right align-top font-semibold">
                {signedPoints(option.cost - option.cost_before)}
              </td>
              <td className="py-1.5 text-right align-top">
                <Button
                  className="whitespace-nowrap"
                  weight={place === cheapest ? "strong" : "plain"}
                  disabled={take.isPending || version === undefined}
                  onClick={() =>
                    version !== undefined &&
                    take.mutate(
                      { version, stop, kind: option.kind, minutes: option.minutes },
                      { onSuccess: (made) => navigate(`/plan/${made.version}?line=${stop.line}`) },
                    )
                  }
                >
                  Do this
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {cheapest === undefined && (
        <p role="status" className="mt-2 text-ink-2 text-sm">
          {options.length === 0 ? "Looking for options …" : "More options are looked for …"}
        </p>
      )}
      {take.isError && <Refused error={take.error} />}
      <p className="mt-2 text-ink-2 text-xs">
        Each option is a plan that passed the check. Doing one makes it live on the floor, and the dough room's cards
        follow it at once.
      </p>
    </>
  );
}
