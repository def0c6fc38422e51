/** Something stopped: which station, since when, and what to do about it; two taps where a counter has not said it. */
import { useState } from "react";
import { useMinuteNow } from "../../app/useMinuteNow";
import { Dialog } from "../../ui/Dialog";
import { Button } from "../../ui/parts";
import { Standstill } from "../plan/BlocksDialog";
import { useWindowView } from "../planningWindow";
import type { LineNow } from "./NowView";

/** What a stop of which nothing is known is taken to last, min. */
const LIKELY = "20";

type Props = {
  now: LineNow;
  stations: Map<string, string>;
  station?: string;
  onClose: () => void;
};

export function Stopped({ now, stations, station, onClose }: Props) {
  const { clock } = useWindowView();
  const minute = useMinuteNow();
  const [chosen, setChosen] = useState(station);
  const [since] = useState(minute);
  const passed = new Set(now.timeline.ribbons.flatMap((ribbon) => ribbon.stops.map((stop) => stop.station)));
  return (
    <Dialog
      open
      onOpenChange={(open) => !open && onClose()}
      title={chosen ? `${stations.get(chosen) ?? chosen} stopped` : "What stopped?"}
    >
      {!chosen && (
        <div className="grid grid-cols-2 gap-2 sm:grid-cols-3">
          {[...stations]
            .filter(([id]) => passed.has(id))
            .map(([id, name]) => (
              <Button key={id} className="min-h-12 justify-center" onClick={() => setChosen(id)}>
                {name}
              </Button>
            ))}
        </div>
      )}
      {chosen && (
        <>
          <p className="text-ink-2 text-sm">What follows counts from now on.</p>
          <Standstill
            version={now.version}
            at={{ line: now.line, station: chosen, begins: clock.typed(Math.ceil(since)) }}
            minutes={LIKELY}
            nameOf={(id) => stations.get(id) ?? id}
            onTaken={onClose}
          />
        </>
      )}
    </Dialog>
  );
}
