/** A figure to fill in: what is usual stands there, marked, until somebody puts in their own. */
import { useState } from "react";
import { useUnits } from "../../app/units";

type Props = {
  label: string;
  unit?: string;
  quantity?: string;
  usual: number | null;
  value: number | null | undefined;
  counted?: boolean;
  optional?: boolean;
  onChange: (value: number | null | undefined) => void;
};

const DIGITS = new Intl.NumberFormat("en-GB", { maximumFractionDigits: 2, useGrouping: false });

export function Entry({ label, unit, quantity = "", usual, value, counted, optional, onChange }: Props) {
  const units = useUnits();
  const written = (figure: number | null) => {
    if (figure === null) return "";
    return quantity ? units.shown(figure, quantity).replaceAll(",", "") : DIGITS.format(figure);
  };
  const [text, setText] = useState<string>();
  const own = value !== undefined;
  const type = (typed: string) => {
    setText(typed);
    if (typed.trim() === "") return onChange(optional ? null : undefined);
    const read = units.typed(typed, quantity);
    return read === undefined ? undefined : onChange(counted ? Math.round(Number(read)) : Number(read));
  };
  return (
    <label className="flex items-baseline justify-between gap-2 py-0.5 text-sm">
      <span className="text-ink-2">{label}</span>
      <span className="flex items-baseline gap-1">
        <span className="text-muted text-xs">{own ? "" : "usual"}</span>
        <input
          inputMode="decimal"
          value={text ?? written(value === undefined ? usual : value)}
          onChange={(event) => type(event.target.value)}
          onBlur={() => setText(undefined)}
          className={`w-20 rounded border bg-ground px-1.5 py-0.5 text-right ${
            own ? "border-crust font-semibold" : "border-trail/60 text-ink-2 italic"
          }`}
        />
        <span className="w-11 text-ink-2 text-xs">{quantity ? units.name(quantity, unit) : unit}</span>
      </span>
    </label>
  );
}
