import { type ReactNode, useMemo, useState } from "react";
import { useUnitTable } from "../api/queries";
import { type System, UnitsContext, unitsOf } from "./units";

const KEY = "rundgang.units";

/** Remembers which system the user reads and types in. */
export function UnitsProvider({ children }: { children: ReactNode }) {
  const [system, setSystem] = useState<System>(localStorage.getItem(KEY) === "us" ? "us" : "metric");
  const table = useUnitTable().data;
  const units = useMemo(() => {
    const other: System = system === "us" ? "metric" : "us";
    const toggle = () => {
      localStorage.setItem(KEY, other);
      setSystem(other);
    };
    return unitsOf(system, toggle, table ?? []);
  }, [system, table]);
  return <UnitsContext value={units}>{children}</UnitsContext>;
}
