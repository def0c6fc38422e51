/** Wet hours that are coming, told before they do: on the plan, in the dough room, on its cards. */
import { oneDecimal } from "../app/format";
import { Notice } from "../ui/parts";
import { useWindowView } from "./planningWindow";

const MOST_SPELLS = 3;

export function useWetAhead() {
  const { day, clock } = useWindowView();
  return day.wet.map((spell) => ({
    ...spell,
    says:
      `${clock.moment(spell.from_min)} to ${clock.moment(spell.to_min)}: up to ${oneDecimal(spell.humidity_pct)} % ` +
      `humidity, by the plant's rule ${oneDecimal(-spell.water_pct)} % less water`,
  }));
}

/** On a card: the wet hours it is mixed in, or that come so soon that they are told. */
export function WetSoon({ minute }: { minute: number }) {
  const soon = useWetAhead().find((spell) => spell.to_min > minute && spell.told_from_min <= minute);
  return soon ? (
    <p className="mt-1 font-semibold text-sm text-steam">
      {soon.from_min <= minute ? "Wet hours" : "Wet hours ahead"}, {soon.says}.
    </p>
  ) : null;
}

export function WetAhead() {
  const { day } = useWindowView();
  const spells = useWetAhead();
  if (spells.length === 0) return null;
  return (
    <div className="mx-2 mb-2">
      <Notice title={`Wet hours ahead${day.conditions.by_weather ? ", by the simulated weather" : ""}`}>
        {spells
          .slice(0, MOST_SPELLS)
          .map((spell) => spell.says)
          .join("; ")}
        {spells.length > MOST_SPELLS && `; and ${spells.length - MOST_SPELLS} more`}. The cards of these hours say it.
      </Notice>
    </div>
  );
}
