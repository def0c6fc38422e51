/** What was read in the room in this window, newest first; a wrong reading is withdrawn, and teaches nothing. */
import type { Schemas } from "../../api/client";
import { useConditionsRead, useWithdrawConditions } from "../../api/queries";
import { HANDS, momentFormat } from "../../app/moments";
import { useUnits } from "../../app/units";
import { Withdraw } from "../../ui/Withdraw";
import { useWindowView } from "../planningWindow";

export function ReadBefore() {
  const read = useConditionsRead().data ?? [];
  if (read.length === 0) return null;
  return (
    <details className="mt-4 border-rule border-t pt-2">
      <summary className="font-semibold text-sm">What was entered before</summary>
      <ul>
        {read.map((one) => (
          <Entered key={one.number} one={one} />
        ))}
      </ul>
    </details>
  );
}

function Entered({ one }: { one: Schemas["ReadConditions"] }) {
  const { day } = useWindowView();
  const units = useUnits();
  const withdraw = useWithdrawConditions();
  const written = momentFormat(day.time_zone, { weekday: "short", day: "numeric", month: "short", ...HANDS });
  const degrees = (celsius: number) => `${units.shown(celsius, "temperature")} ${units.name("temperature")}`;
  const { room_c, flour_c, tap_c } = one.conditions;
  return (
    <li className="border-rule border-b py-1 text-sm">
      <span className={one.withdrawn ? "line-through" : ""}>
        {written.format(new Date(one.created_at))}: room {degrees(room_c)}, flour {degrees(flour_c)}, tap{" "}
        {degrees(tap_c)}
      </span>{" "}
      {one.withdrawn ? (
        <span className="text-ink-2">withdrawn: {one.withdrawn}</span>
      ) : (
        <Withdraw
          what="Withdraw"
          onWithdraw={(reason) => withdraw.mutate({ number: one.number, reason })}
          busy={withdraw.isPending}
          error={withdraw.error}
        />
      )}
    </li>
  );
}
