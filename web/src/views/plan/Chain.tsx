/** The runs that bind each other down to one: each with what keeps it from starting earlier. */

import type { Binding, Schemas } from "../../api/client";
import { duration, oneDecimal } from "../../app/format";
import { WayStop } from "../../ui/parts";
import { Said } from "../../ui/Said";
import { useWindowView } from "../planningWindow";

type Link = Schemas["Link"];
type Props = { links: Link[]; onSelect: (run: string) => void };

export function Chain({ links, onSelect }: Props) {
  const { clock, names } = useWindowView();
  return (
    <ol className="mt-1">
      {links.map((link, place) => (
        <WayStop key={link.run} binding={place === links.length - 1}>
          <span className="block text-ink-2 text-xs">
            <Said text={bindingWords(link.binding)} />
          </span>
          <button type="button" className="text-left font-semibold hover:underline" onClick={() => onSelect(link.run)}>
            {link.run} {names.get(link.product)}
          </button>
          <span className="block text-xs">
            divider {clock.moment(link.start_min)}, for {duration(link.feed_min)}
          </span>
        </WayStop>
      ))}
    </ol>
  );
}

/** What keeps a run from starting earlier, in words. */
export function bindingWords(binding: Binding): string {
  const parts = binding.reasons
    .filter((reason) => reason.minutes >= 0.05)
    .map((reason) => `${reason.what} ${oneDecimal(reason.minutes)} min`)
    .join(", ");
  const after = binding.after ? ` after ${binding.after}` : "";
  switch (binding.kind) {
    case "opening":
      return "The window opens; first dough mixed and rested, oven hot";
    case "headway":
      return `${binding.where}${after}: ${parts || "pieces close up"}`;
    case "units":
      return `Nothing free sooner at the ${binding.where}${after}${parts ? `: ${parts}` : ""}`;
    case "freshness":
      return "Packs made sooner would be past their shelf life at the lorry";
    case "closing":
      return `${binding.where} is closed before${parts ? `: ${parts}` : ""}`;
    case "crew":
      return `Nobody of ${binding.where} is free sooner${after}`;
    case "shift":
      return `More of ${binding.where} come then: a shift begins, or a break is over`;
    case "store":
      return `No room sooner in the ${binding.where}`;
    case "shared":
      return `${binding.where} works for another line`;
    case "tool":
      return `${binding.where}${parts ? `: ${parts}` : ""}`;
    case "materials":
      return `Waits for a delivery of ${binding.where}`;
    case "pin":
      return "Pinned here by hand";
    default:
      return `Kept in its place${after}; it could start sooner`;
  }
}
