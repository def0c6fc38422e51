/** Water that has changed while its card was open: said, with what it was, until it has been seen. */
import { useState } from "react";
import type { Card } from "../../api/client";
import { kilograms } from "../../app/format";
import { useUnits } from "../../app/units";
import { Button, Notice } from "../../ui/parts";

type Water = NonNullable<Card["water"]>;

/** Less than half of a card's last figure of the temperature, or than a scale's step, is no change. */
const [LEAST_C, LEAST_G] = [0.05, 5];

const differs = (one: Water, other: Water) =>
  Math.abs(one.wanted_c - other.wanted_c) >= LEAST_C ||
  Math.abs(one.total_g - other.total_g) >= LEAST_G ||
  Math.abs(one.ice_g - other.ice_g) >= LEAST_G ||
  Math.abs(one.chilled_g - other.chilled_g) >= LEAST_G;

export function ChangedWater({ card }: { card: Card }) {
  const units = useUnits();
  const [seen, see] = useState(card.water);
  if (!seen || !card.water || !differs(seen, card.water)) return null;
  const said = (water: Water) => {
    const mass = (grams: number) =>
      `${units.system === "us" ? units.shown(grams / 1000, "scaled mass") : kilograms(grams)} ${units.name("scaled mass", "kg")}`;
    const parts = [
      `${mass(water.total_g)} at ${units.shown(water.wanted_c, "temperature")} ${units.name("temperature", "°C")}`,
      water.chilled_g > 0 ? `${mass(water.chilled_g)} of it chilled` : "",
      water.ice_g > 0 ? `${mass(water.ice_g)} of it ice` : "",
    ];
    return parts.filter(Boolean).join(", ");
  };
  return (
    <div className="mb-3">
      <Notice tone="wrong" title="The water of this batch has changed since you opened its card.">
        <p>
          It was {said(seen)}; it is {said(card.water)} now.
        </p>
        <Button className="mt-2" onClick={() => see(card.water)}>
          Seen
        </Button>
      </Notice>
    </div>
  );
}
