/** Metric or US customary, for reading and typing. The table of units comes from the API. */
import { createContext, useContext } from "react";
import type { Unit } from "../api/client";
import { digits } from "./format";

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
  /** A sentence or an equation that the API made, with its figures in the units that one reads. */
  text: (metric: string) => string;
};

export const UnitsContext = createContext<Units | undefined>(undefined);

export function useUnits(): Units {
  const units = useContext(UnitsContext);
  if (!units) throw new Error("useUnits outside of UnitsProvider");
  return units;
}

/** What is added to a tap's temperature in the rule for ice: the heat that ice takes up, in degrees of water. */
const ICE_RULE = { metric: /°C \+ 80\b/g, us: "°C + 112" };

const FIGURE = "[-−+]?\\d[\\d,]*(?:\\.\\d+)?";
const MOST_DECIMALS = 4;

/** Figures and the unit behind the last of them: 12 °C, 225/236/231 °C, 12 to 15 °C. */
const figuresWith = (names: string[]) => {
  const longestFirst = [...names].sort((one, other) => other.length - one.length);
  const unit = longestFirst.map((name) => name.replaceAll(/[.*+?^${}()|[\]\\]/g, "\\$&")).join("|");
  return new RegExp(`((?:${FIGURE}(?:/| to | and ))*${FIGURE})\\s?(${unit})(?![\\p{L}\\d/²³°])`, "gu");
};

/** A figure converted, with as many digits as say what it said, and no fewer than three. */
function converted(figure: string, unit: Unit): string {
  const plain = figure.replaceAll(",", "").replace("−", "-");
  const value = Number(plain) * unit.factor + unit.offset;
  if (unit.offset !== 0) return digits(value, 1);
  const significant = Math.max(3, plain.replace(/^[-+]?0*\.?0*/, "").replace(".", "").length);
  const before = value === 0 ? 1 : Math.floor(Math.log10(Math.abs(value))) + 1;
  const written = digits(value, Math.min(MOST_DECIMALS, Math.max(0, significant - before)));
  return figure.startsWith("+") && value > 0 ? `+${written}` : written;
}

/** What the same metric name stands for in a text: one row of the table for each name. */
const rowsByName = (table: Unit[]) => {
  const rows = new Map<string, Unit>();
  for (const unit of table) if (!rows.has(unit.metric)) rows.set(unit.metric, unit);
  return rows;
};

export function unitsOf(system: System, toggle: () => void, table: Unit[]): Units {
  const rows = new Map(table.map((unit) => [unit.quantity, unit]));
  const named = rowsByName(table);
  const pattern = figuresWith([...named.keys()]);
  const one = new RegExp(FIGURE, "g");
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
    text: (metric) => {
      if (system === "metric" || named.size === 0) return metric;
      return metric
        .replaceAll(ICE_RULE.metric, ICE_RULE.us)
        .replace(pattern, (whole, figures: string, name: string) => {
          const unit = named.get(name);
          return unit ? `${figures.replace(one, (figure) => converted(figure, unit))} ${unit.us}` : whole;
        });
    },
  };
}
