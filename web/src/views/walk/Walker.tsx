/** Who walks: asked once a shift, and remembered on this tablet. */
import { type FormEvent, useEffect, useState } from "react";
import { Button } from "../../ui/parts";
import { keepWalker, type Walker, walkerKept } from "./outbox";

const SHIFT_MS = 9 * 3_600_000;

/** Undefined while it is not known yet, null where nobody walks. */
export function useWalker() {
  const [walker, set] = useState<Walker | null>();
  useEffect(() => {
    void walkerKept().then((found) => set(found && Date.now() - found.since < SHIFT_MS ? found : null));
  }, []);
  const put = (next: Walker | null) => keepWalker(next ?? undefined).then(() => set(next));
  return {
    walker,
    walks: (name: string) => put({ name, since: Date.now() }),
    leaves: () => put(null),
  };
}

/** The name by which entries are signed. */
export function WhoWalks({ onName }: { onName: (name: string) => void }) {
  const [name, setName] = useState("");
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (name.trim()) onName(name.trim());
  };
  return (
    <form onSubmit={submit} className="m-auto grid w-full max-w-md gap-4 rounded-xl border border-rule bg-paper p-8">
      <label className="grid gap-2">
        <span className="font-bold text-2xl">Who walks?</span>
        <span className="text-ink-2">Asked once a shift; every entry is signed with it.</span>
        <input
          autoComplete="off"
          maxLength={60}
          value={name}
          onChange={(event) => setName(event.target.value)}
          className="min-h-14 rounded-lg border-2 border-ink bg-paper px-4 text-xl"
        />
      </label>
      <Button type="submit" weight="strong" className="min-h-14 justify-center text-lg" disabled={!name.trim()}>
        Begin the walk
      </Button>
    </form>
  );
}
