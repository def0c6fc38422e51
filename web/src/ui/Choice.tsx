import { RadioGroup } from "radix-ui";
import type { ReactNode } from "react";

type Option<Value extends string> = { value: Value; label: ReactNode };
type Props<Value extends string> = {
  label: string;
  value: Value;
  options: readonly Option<Value>[];
  onChange: (value: Value) => void;
  stacked?: boolean;
};

/** One of a few: side by side, or stacked where each says more. */
export function Choice<Value extends string>({ label, value, options, onChange, stacked = false }: Props<Value>) {
  return (
    <RadioGroup.Root
      aria-label={label}
      value={value}
      onValueChange={(chosen) => onChange(chosen as Value)}
      className={stacked ? "grid gap-1.5" : "inline-flex flex-wrap rounded-lg border border-trail/60 bg-ground p-0.5"}
    >
      {options.map((option) => (
        <RadioGroup.Item
          key={option.value}
          value={option.value}
          className={`rounded-md border px-3 py-1.5 text-left text-sm ${
            stacked
              ? "border-rule data-[state=checked]:border-crust data-[state=checked]:bg-crumb"
              : "border-transparent text-ink-2 data-[state=checked]:bg-paper data-[state=checked]:font-semibold data-[state=checked]:text-ink"
          }`}
        >
          {option.label}
        </RadioGroup.Item>
      ))}
    </RadioGroup.Root>
  );
}
