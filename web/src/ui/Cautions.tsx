/** The usual cautions, each with what it is about. */
import type { Schemas } from "../api/client";

export function Cautions({ cautions }: { cautions: readonly Schemas["Caution"][] }) {
  return (
    <ul className="grid gap-2">
      {cautions.map((caution) => (
        <li key={caution.about} className="border-ember border-l-4 pl-3 text-xs leading-4">
          <strong className="block text-sm">{caution.about}</strong>
          {caution.text}
        </li>
      ))}
    </ul>
  );
}
