/** Something stopped: which station; one tap, and its page says what to do. */
import { useNavigate } from "react-router";
import { useBeginStop } from "../../api/queries";
import { Dialog } from "../../ui/Dialog";
import { Button, Refused } from "../../ui/parts";
import { useWindowView } from "../planningWindow";
import type { LineNow } from "./NowView";

/** Tell that a station stands, since its counters say so, or now; and go to its page. */
export function useStop(now: LineNow) {
  const { clock } = useWindowView();
  const { mutate, isPending, error } = useBeginStop();
  const navigate = useNavigate();
  const tell = (station: string) => {
    const known = now.standing.find((one) => one.station === station);
    mutate(
      { line: now.line, station, began_at: known ? clock.stamp(known.from_min) : null },
      { onSuccess: ({ number }) => navigate(`/stop/${number}`) },
    );
  };
  return { tell, isPending, error };
}

type Props = { now: LineNow; stations: Map<string, string>; onClose: () => void };

export function Stopped({ now, stations, onClose }: Props) {
  const { tell, isPending, error } = useStop(now);
  const passed = new Set(now.timeline.ribbons.flatMap((ribbon) => ribbon.stops.map((one) => one.station)));
  return (
    <Dialog open onOpenChange={(open) => !open && onClose()} title="What stopped?">
      <div className="grid grid-cols-2 gap-2 sm:grid-cols-3">
        {[...stations]
          .filter(([id]) => passed.has(id))
          .map(([id, name]) => (
            <Button key={id} className="min-h-12 justify-center" disabled={isPending} onClick={() => tell(id)}>
              {name}
            </Button>
          ))}
      </div>
      {error && <Refused error={error} />}
    </Dialog>
  );
}
