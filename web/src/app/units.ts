/** Metric or US customary, for reading and typing. The table of units comes from the API. */
import { createContext, useContext } from "react";
import type { Unit } from "../api/client";

export type System = "metric" | "us";

export type Units = {
  system: System;
  toggle: () => void;
  /** The unit's name; a unit outside the table is the same in both systems. */
  name: (quantity: string, plain?: string) => string;
  /** A metric figure as it is written, without its unit. */
  shown: (metric: number, quantity: string, decimals?: number) => string;
  /** A typed figure as the API takes it, in metric units; undefined where it is no number. */
  typed: (text: string, quantity: string) => string | undefined;
};

export const UnitsContext = createContext<Units | undefined>(undefined);

export function useUnits(): Units {
  const units = useContext(UnitsContext);
  if (!units) throw new Error("useUnits outside of UnitsProvider");
  return units;
}

const digits = (value: number, decimals: number) =>
  value.toLocaleString("en-GB", { minimumFractionDigits: decimals, maximumFractionDigits: decimals });

export function unitsOf(system: System, toggle: () => void, table: Unit[]): Units {
  const rows = new Map(table.map((unit) => [unit.quantity, unit]));
  return {
    system,
    toggle,
    name: (quantity, plain = "") => rows.get(quantity)?.[system] ?? plain,
    shown: (metric, quantity, decimals = 1) => {
      const unit = rows.get(quantity);
      if (!unit) return digits(metric, decimals);
      if (system === "metric") return digits(metric, unit.metric_decimals);
      return digits(metric * unit.factor + unit.offset, unit.us_decimals);
    },
    typed: (text, quantity) => {
      const value = Number(text.trim().replace(",", "."));
      if (text.trim() === "" || !Number.isFinite(value)) return undefined;
      const unit = rows.get(quantity);
      return String(unit && system === "us" ? (value - unit.offset) / unit.factor : value);
    },
  };
}
