/** What can be done about the plan, as each option is found: a plan that was repaired, and what the check says of it. */
import { useEffect, useState } from "react";
import { useNavigate } from "react-router";
import { Refusal, type Schemas } from "../../api/client";
import { optionsOf, type StopRequest, useTakeOption } from "../../api/queries";
import { duration, percent, plural, whole } from "../../app/format";
import { useUnits } from "../../app/units";
import { Button, Refused } from "../../ui/parts";
import { signedPoints } from "../plan/points";
import { useWindowView } from "../planningWindow";
import { useCurrency } from "../useCurrency";
import { OPTION } from "./words";

type Option = Schemas["StopOption"];

/** What is less is nothing, kg. */
const LEAST_KG = 0.05;

type Come = { options: Option[]; cheapest?: number | null; version?: number; error?: Refusal };

export function useOptions(stop: StopRequest | undefined): Come {
  const asked = JSON.stringify(stop);
  const [come, set] = useState<Come>({ options: [] });
  useEffect(() => {
    if (asked === undefined) return;
    const ends = new AbortController();
    set({ options: [] });
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

type Props = { stop: StopRequest; come: Come };

export function Options({ stop, come }: Props) {
  const { options, cheapest, version, error } = come;
  if (error) return <Refused error={error} />;
  return (
    <>
      <OptionsTable stop={stop} options={options} cheapest={cheapest} version={version} />
      {cheapest === undefined && (
        <p role="status" className="mt-2 text-ink-2 text-sm">
          {options.length === 0 ? "Looking for options …" : "More options are looked for …"}
        </p>
      )}
    </>
  );
}

const COLUMNS = [
  ["Option", ""],
  ["Wasted", "text-right"],
  ["Lorries", ""],
  ["Points", "text-right"],
] as const;

type TableProps = {
  stop: StopRequest;
  options: readonly Option[];
  cheapest: number | null | undefined;
  version: number | undefined;
  onTaken?: () => void;
};

/** Options beside each other, each of which can be done at once; without a version none can yet. */
export function OptionsTable({ stop, options, cheapest, version, onTaken }: TableProps) {
  const take = useTakeOption();
  const navigate = useNavigate();
  const go = (option: Option) => {
    if (version === undefined) return;
    const { kind, minutes, run, made_as } = option;
    const onSuccess = (made: { version: number }) => {
      onTaken?.();
      navigate(`/plan/${made.version}?line=${stop.line}`);
    };
    take.mutate({ version, stop, kind, minutes, run, made_as }, { onSuccess });
  };
  return (
    <>
      <table className="mt-2 w-full text-sm">
        <thead className="text-ink-2 text-xs">
          <tr className="text-left">
            {COLUMNS.map(([name, look]) => (
              <th key={name} className={`py-1 pr-3 font-semibold ${look}`}>
                {name}
              </th>
            ))}
            <th />
          </tr>
        </thead>
        <tbody>
          {options.map((option, place) => (
            <OptionRow
              key={`${option.kind} ${option.minutes} ${option.run} ${option.made_as}`}
              option={option}
              isCheapest={place === cheapest}
              disabled={take.isPending || version === undefined}
              onTake={() => go(option)}
            />
          ))}
        </tbody>
      </table>
      {take.isError && <Refused error={take.error} />}
      <p className="mt-2 text-ink-2 text-xs">
        Each option that can be done is a plan that passed the check. Doing one makes it live on the floor, and the
        dough room's cards follow it at once.
      </p>
    </>
  );
}

type RowProps = { option: Option; isCheapest: boolean; disabled: boolean; onTake: () => void };

function OptionRow({ option, isCheapest, disabled, onTake }: RowProps) {
  const units = useUnits();
  const currency = useCurrency();
  const { names, waveNames } = useWindowView();
  return (
    <tr className={`border-rule border-t ${isCheapest ? "bg-crumb/50" : ""}`}>
      <td className="py-2 pr-3 align-top">
        <b>
          {OPTION[option.kind]}, {duration(option.minutes)}
        </b>
        {isCheapest && <span className="ml-2 font-semibold text-steam text-xs">cheapest for the likely time</span>}
        <span className="block text-ink-2 text-xs">
          {option.made_as && `the rest of ${option.run} as ${names.get(option.made_as)}, `}
          {plural(option.moved.length, "run")} moved
          {option.share != null && `, at ${percent(option.share)} of the pace`}
        </span>
        {option.broken.map((rule) => (
          <span key={rule} className="block text-ember text-xs">
            breaks a rule: {rule}
          </span>
        ))}
      </td>
      <td className="py-2 pr-3 text-right align-top">
        {option.scrap_kg < LEAST_KG
          ? "nothing"
          : `${whole(option.scrap_pieces)} pieces, ${units.shown(option.scrap_kg, "wasted mass")} ${units.name("wasted mass", "kg")}`}
        {option.scrap_money != null && option.scrap_kg >= LEAST_KG && `, ${whole(option.scrap_money)} ${currency}`}
      </td>
      <td className="py-2 pr-3 align-top text-xs">
        {option.lorries.length === 0 && "none later"}
        {option.lorries.map((late) => (
          <span key={`${late.wave} ${late.product}`} className="block text-ember">
            {waveNames.get(late.wave)}: {names.get(late.product)},{" "}
            {late.short > late.short_before ? `${whole(late.short - late.short_before)} packs more short` : "later"}
          </span>
        ))}
      </td>
      <td className="py-2 pr-3 text-right align-top font-semibold">{signedPoints(option.cost - option.cost_before)}</td>
      <td className="py-1.5 text-right align-top">
        {option.broken.length === 0 && (
          <Button
            className="whitespace-nowrap"
            weight={isCheapest ? "strong" : "plain"}
            disabled={disabled}
            onClick={onTake}
          >
            Do this
          </Button>
        )}
      </td>
    </tr>
  );
}
