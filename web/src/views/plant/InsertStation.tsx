/** A new station: what kind it is, and its name; the usual figures of the kind are in it, for one's own to replace. */
import { useState } from "react";
import { useStationKinds } from "../../api/queries";
import { Choice } from "../../ui/Choice";
import type { Thing } from "./draft";
import { Naming } from "./Naming";
import type { Parts } from "./PlantView";
import { copyOf } from "./route";

type Props = { parts: Parts; stations: Thing[]; onStation: (station: Thing) => void; onClose: () => void };

export function InsertStation({ parts, stations, onStation, onClose }: Props) {
  const kinds = useStationKinds().data ?? {};
  const [kind, setKind] = useState("conveyor");
  const starter = parts.starters[kind]?.station as unknown as Thing | undefined;
  return (
    <Naming
      title="Put a station in"
      begun=""
      button="Put it in"
      onName={(name) => starter && onStation(copyOf(named(starter, name), name, stations))}
      onClose={onClose}
    >
      <Choice
        stacked
        label="Kind of station"
        value={kind}
        onChange={setKind}
        options={Object.entries(kinds).map(([value, word]) => ({
          value,
          label: (
            <>
              <span className="font-semibold">{word.name}</span> <span className="text-ink-2">{word.help}</span>
            </>
          ),
        }))}
      />
      <p className="my-3 text-ink-2 text-sm">It begins with usual figures, made up; put in yours.</p>
    </Naming>
  );
}

/** A dough room's station has one mixer to begin with, by the station's own name. */
const named = (station: Thing, name: string): Thing => ("mixers" in station ? { ...station, mixers: [name] } : station);
