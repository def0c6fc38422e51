/** The line drawn as the walk: a card for each station, how much of it a product takes, and where another would go in. */
import { useState } from "react";
import type { LineBalance } from "../../api/client";
import { brief, percent, whole } from "../../app/format";
import { useUnits } from "../../app/units";
import { StationSign, signOf } from "../../ui/signs";
import { machinesOf } from "../line/StagePanel";
import type { Thing } from "./draft";
import type { Step } from "./route";

type Stage = LineBalance["stages"][number];

type Props = {
  stations: Thing[];
  steps: Step[];
  balance: LineBalance | undefined;
  chosen: string | undefined;
  onChoose: (station: string) => void;
  onMove?: (from: number, to: number) => void;
  onInsert?: (at: number) => void;
};

export function Walk({ stations, steps, balance, chosen, onChoose, onMove, onInsert }: Props) {
  const [dragged, setDragged] = useState<number>();
  return (
    <ol className={`flex flex-wrap gap-y-3 ${onInsert ? "" : "gap-x-2"}`}>
      {stations.map((station, place) => (
        <li
          key={station.id}
          className="flex min-w-[8.6rem] max-w-[11rem] flex-1 flex-col"
          draggable={onMove !== undefined}
          onDragStart={() => setDragged(place)}
          onDragOver={(event) => event.preventDefault()}
          onDrop={() => {
            if (dragged !== undefined && dragged !== place) onMove?.(dragged, place);
            setDragged(undefined);
          }}
        >
          <div className="flex flex-1">
            <Card
              station={station}
              stage={balance?.stages.find((stage) => stage.station === station.id)}
              narrowest={balance?.bottleneck === station.id}
              step={steps.find((step) => step.station === station.id)}
              chosen={station.id === chosen}
              onChoose={() => onChoose(station.id)}
            />
            {onInsert && (
              <button
                type="button"
                aria-label={`Put a station in after ${station.name}`}
                onClick={() => onInsert(place + 1)}
                className="min-w-[24px] shrink-0 text-muted hover:text-crust"
              >
                <svg aria-hidden="true" viewBox="0 0 12 12" className="mx-auto h-3 w-3" stroke="currentColor">
                  <path d="M6 1v10M1 6h10" />
                </svg>
              </button>
            )}
          </div>
          <div aria-hidden="true" className="relative mt-2 h-3">
            <div className="absolute top-1.5 right-0 left-0 border-trail border-t-2 border-dotted" />
            <div className="absolute top-0 left-[calc(50%-1.1rem)] h-3 w-3 rounded-full border-2 border-crust bg-paper" />
          </div>
          <p className="min-h-4 text-muted text-xs">{carried(station, place, stations)}</p>
        </li>
      ))}
    </ol>
  );
}

const carried = (station: Thing, place: number, stations: Thing[]) => {
  const minutes = Number(station.transfer_min ?? 0);
  return minutes > 0 && place < stations.length - 1 ? `${brief(minutes)} on` : "";
};

type CardProps = {
  station: Thing;
  stage: Stage | undefined;
  narrowest: boolean;
  step: Step | undefined;
  chosen: boolean;
  onChoose: () => void;
};

function Card({ station, stage, narrowest, step, chosen, onChoose }: CardProps) {
  const units = useUnits();
  const on = step !== undefined || stage !== undefined;
  return (
    <button
      type="button"
      aria-pressed={chosen}
      onClick={onChoose}
      className={`flex min-w-0 flex-1 flex-col items-center rounded-lg border bg-paper px-2 pt-3 pb-2 text-center hover:border-crust ${
        chosen ? "border-2 border-crust bg-ground" : "border-rule"
      }`}
    >
      <StationSign sign={signOf(station, step)} className={`h-9 w-9 ${on ? "" : "opacity-45"}`} />
      <span
        className={`mt-1 w-full hyphens-auto break-words text-sm leading-4 ${on ? "font-bold" : "text-ink-2"}`}
        lang="en"
      >
        {station.name}
      </span>{" "}
      <span className="mt-0.5 flex-1 text-ink-2 text-xs leading-4">
        {stage ? `${machinesOf(stage, units)}, ${brief(stage.dwell_min)}` : step ? "…" : "not on its way"}
      </span>{" "}
      {stage && (
        <>
          <span aria-hidden="true" className="mt-1.5 block h-1.5 w-full overflow-hidden rounded bg-rule">
            <span
              className={`block h-full ${narrowest ? "bg-ember" : "bg-trail"}`}
              style={{ width: percent(Math.min(1, stage.utilisation)) }}
            />
          </span>
          <span className={`mt-1 font-semibold text-xs ${narrowest ? "text-ember" : ""}`}>
            {percent(stage.utilisation)} of {whole(stage.capacity_per_h)}
          </span>
        </>
      )}
    </button>
  );
}
