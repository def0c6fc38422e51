/** What differs if a file takes the place of the day's orders: before anything is taken. */
import type { Schemas } from "../../api/client";
import { asksFor, plural, whole } from "../../app/format";
import { useWindowView } from "../planningWindow";

type Change = Schemas["OrderChange"];

const SHOWN = 60;

export function OrderChanges({ changes }: { changes: Change[] }) {
  const { names, waveNames } = useWindowView();
  const added = changes.filter((change) => change.was === null).length;
  const gone = changes.filter((change) => change.now === null).length;
  const other = changes.length - added - gone;
  if (changes.length === 0) return <p className="text-sm">Nothing in it differs from the day&apos;s orders.</p>;
  return (
    <section aria-label="Changes">
      <p className="font-semibold text-sm">
        {plural(added, "line")} new, {plural(gone, "line")} gone, {plural(other, "line")} changed.
      </p>
      <ul className="mt-1 max-h-56 overflow-auto border-rule border-y text-sm">
        {changes.slice(0, SHOWN).map((change) => (
          <li
            key={`${change.order} ${change.product} ${change.wave}`}
            className="flex gap-3 border-rule border-b py-0.5"
          >
            <span className="w-20 font-semibold">{change.order}</span>
            <span className="flex-1">
              {names.get(change.product) ?? change.product}, {waveNames.get(change.wave) ?? "a later lorry"}
            </span>
            <span className={change.now === null ? "text-ember" : ""}>
              {change.was === null ? "new" : whole(change.was)} → {change.now === null ? "gone" : whole(change.now)}
              {change.now !== null && change.fresh_was_h !== change.fresh_now_h && `, ${asksFor(change.fresh_now_h)}`}
            </span>
          </li>
        ))}
        {changes.length > SHOWN && <li className="py-1 text-ink-2">and {whole(changes.length - SHOWN)} more</li>}
      </ul>
    </section>
  );
}
