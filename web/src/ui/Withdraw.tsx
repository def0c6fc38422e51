/** A reading that does not count: withdrawn with a reason, and kept in the list. */
import { useState } from "react";
import type { Refusal } from "../api/client";
import { Button, Refused } from "./parts";

type Props = { what: string; onWithdraw: (reason: string) => void; busy: boolean; error: Refusal | null };

export function Withdraw({ what, onWithdraw, busy, error }: Props) {
  const [asking, ask] = useState(false);
  const [reason, setReason] = useState("");
  if (!asking)
    return (
      <button type="button" className="min-h-11 text-sm underline" onClick={() => ask(true)}>
        {what}
      </button>
    );
  return (
    <div className="flex basis-full flex-wrap items-end gap-3">
      <label className="flex-1 text-sm">
        Why it does not count
        <input
          value={reason}
          maxLength={120}
          onChange={(event) => setReason(event.target.value)}
          className="mt-1 block w-full rounded-lg border border-trail/60 bg-ground px-3 py-2 text-base"
        />
      </label>
      <Button disabled={reason.trim() === "" || busy} onClick={() => onWithdraw(reason)}>
        Withdraw
      </Button>
      <Button onClick={() => ask(false)}>Cancel</Button>
      {error && <Refused error={error} />}
    </div>
  );
}
