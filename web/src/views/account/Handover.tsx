/** What whoever leaves tells whoever comes: written here, read on Now and on the walk. */
import { useState } from "react";
import { useHandOver } from "../../api/queries";
import { Button, Panel, Refused } from "../../ui/parts";
import { useWindowView } from "../planningWindow";
import type { View } from "./words";

const LONGEST = 2_000;

export function Handover({ view }: { view: View }) {
  const { clock } = useWindowView();
  const [says, setSays] = useState("");
  const handOver = useHandOver();
  return (
    <Panel label="For the next shift" className="p-4">
      <h2 className="mb-1 font-bold">For the next shift</h2>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          handOver.mutate({ line: view.line, says: says.trim() }, { onSuccess: () => setSays("") });
        }}
      >
        <label className="block text-ink-2 text-xs">
          What whoever comes must know
          <textarea
            value={says}
            maxLength={LONGEST}
            rows={3}
            onChange={(event) => setSays(event.target.value)}
            className="mt-1 block w-full rounded-lg border border-trail/60 bg-ground px-3 py-2 text-base text-ink"
          />
        </label>
        {handOver.isError && <Refused error={handOver.error} />}
        <Button type="submit" className="mt-2" disabled={says.trim() === "" || handOver.isPending}>
          Hand over
        </Button>
      </form>
      <ul className="mt-2">
        {view.notes.map((note) => (
          <li key={note.uuid} className="border-rule border-t py-1.5 text-sm">
            <p className="whitespace-pre-wrap">{note.says}</p>
            <p className="text-ink-2 text-xs">
              {note.author}, {clock.moment(clock.minuteAt(note.at))}
            </p>
          </li>
        ))}
      </ul>
    </Panel>
  );
}
