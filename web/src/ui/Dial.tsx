/** A slider with its name and its figure. */
import { Slider } from "radix-ui";
import { type ReactNode, useEffect, useId, useState } from "react";

type Props = {
  name: ReactNode;
  value: number;
  least: number;
  most: number;
  step: number;
  shown: (value: number) => string;
  onChange: (value: number) => void;
};

export function Dial({ name, value, least, most, step, shown, onChange }: Props) {
  const id = useId();
  const [at, setAt] = useState(value);
  useEffect(() => setAt(value), [value]);
  return (
    <div className="flex flex-wrap items-center justify-between gap-x-3">
      <span className="w-20 text-sm" id={id}>
        {name}
      </span>
      <Slider.Root
        min={least}
        max={most}
        step={step}
        value={[Math.min(most, Math.max(least, at))]}
        onValueChange={([chosen]) => {
          if (chosen === undefined) return;
          setAt(chosen);
          onChange(chosen);
        }}
        className="relative flex h-8 min-w-20 flex-1 touch-none items-center"
      >
        <Slider.Track className="relative h-1.5 flex-1 rounded bg-rule">
          <Slider.Range className="absolute h-full rounded bg-crust" />
        </Slider.Track>
        <Slider.Thumb aria-labelledby={id} className="block h-5 w-5 rounded-full border-[3px] border-crust bg-paper" />
      </Slider.Root>
      <output className="w-18 text-right font-bold text-sm">{shown(at)}</output>
    </div>
  );
}
