/** A station of the walk: its sign, what is asked of it, and how full it is at the pace. */
import type { LineBalance, Schemas } from "../../api/client";
import { percent, whole } from "../../app/format";
import { StationSign } from "../../ui/signs";
import type { Figures } from "./draft";
import { Entry } from "./Entry";

type Props = {
  asked: Schemas["AskedStation"];
  stage: LineBalance["stages"][number] | undefined;
  narrowest: boolean;
  ofStation: Figures;
  ofProduct: Figures;
  onStation: (figures: Figures) => void;
  onProduct: (figures: Figures) => void;
};

const put = (figures: Figures, key: string, value: number | null | undefined): Figures => {
  const { [key]: _, ...others } = figures;
  return value === undefined || value === null ? others : { ...others, [key]: value };
};

export function StationCard({ asked, stage, narrowest, ofStation, ofProduct, onStation, onProduct }: Props) {
  const full = stage ? Math.min(1, stage.utilisation) : 0;
  return (
    <li className="relative">
      <div
        aria-hidden="true"
        className="absolute top-[9px] right-[-14px] left-0 border-trail border-t-2 border-dotted"
      />
      <div
        className={`relative h-[20px] w-[20px] rounded-full border-2 ${narrowest ? "border-ember bg-ember" : "border-crust bg-paper"}`}
      />
      <section
        aria-label={asked.name}
        className={`mt-1 rounded-lg border bg-paper px-3 pt-2 pb-2.5 ${narrowest ? "border-ember" : "border-rule"}`}
      >
        <div className="flex items-center gap-2">
          <StationSign sign={asked.kind} />
          <h3 className="flex-1 font-bold text-sm">{asked.name}</h3>
          {narrowest && <span className="font-semibold text-ember text-xs">bottleneck</span>}
        </div>
        {asked.of_station.map((one) => (
          <Entry
            key={one.key}
            label={one.name}
            unit={one.unit}
            quantity={one.quantity}
            usual={one.value}
            counted={one.whole}
            value={ofStation[one.key]}
            onChange={(value) => onStation(put(ofStation, one.key, value))}
          />
        ))}
        {asked.of_product.length > 0 && (
          <div className="mt-1 border-trail border-t border-dotted pt-1">
            {asked.of_product.map((one) => (
              <Entry
                key={one.key}
                label={one.name}
                unit={one.unit}
                quantity={one.quantity}
                usual={one.value}
                value={ofProduct[one.key]}
                onChange={(value) => onProduct(put(ofProduct, one.key, value))}
              />
            ))}
          </div>
        )}
        <div className="mt-1.5 h-1.5 overflow-hidden rounded bg-ground">
          <div className={`h-full ${narrowest ? "bg-ember" : "bg-trail"}`} style={{ width: `${full * 100}%` }} />
        </div>
        <p className="mt-0.5 text-ink-2 text-xs">
          {stage ? `${percent(stage.utilisation)} full; carries ${whole(stage.capacity_per_h)} an hour` : "…"}
        </p>
      </section>
    </li>
  );
}
