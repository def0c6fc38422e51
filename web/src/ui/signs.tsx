/** Signs of 24 x 24 for what a station does: by its kind, or closer where its figures say more. */
const SIGNS: Record<string, string> = {
  batch: "M4 9h16l-2 9a4 4 0 0 1-4 3h-4a4 4 0 0 1-4-3zM12 3v9M9 15l6-3",
  held: "M3 8h18v9a3 3 0 0 1-3 3H6a3 3 0 0 1-3-3zM7 13q2.500-3 5 0t5 0",
  rate: "M6 3v7h12V3M12 10v5M4 20h16M9 20v-3h6v3",
  conveyor: "M5 14h14a3 3 0 0 1 0 6H5a3 3 0 0 1 0-6zM7 11h3V8H7zM14 11h3V8h-3z",
  chamber: "M4 4h16v16H4zM8 8h8M8 12h8M8 16h8",
  load: "M4 6h16v14H4zM12 2v8M9 7l3 3 3-3M8 15h8",
  oven: "M4 7h16v11H4zM9.300 7v11M14.700 7v11M6 4q1-2 2 0M11 4q1-2 2 0M16 4q1-2 2 0",
  fryer: "M4 10h16v5a4 4 0 0 1-4 4H8a4 4 0 0 1-4-4zM8 14h.1M12 15h.1M16 14h.1M12 2q3 4 0 5q-3-1 0-5",
  cooler: "M12 4a8 3 0 1 1-.1 0M12 7a8 3 0 0 0 8-3M4 12a8 3 0 0 0 16 0M4 16a8 3 0 0 0 16 0M4 7v9M20 7v9",
  packer: "M6 9h12l1 11H5zM9 9V6a3 3 0 0 1 6 0v3M9 14h6",
  bench: "M3 12h18M6 12v8M18 12v8M9 6a2 2 0 1 0 .1 0M15 6a2 2 0 1 0 .1 0",
};

type Figures = Record<string, unknown>;

/** Which sign tells a station best, with what a product is asked there. */
export function signOf(station: Figures, step: Figures | undefined): string {
  const kind = String(station.kind);
  if (Number(step?.takes ?? 1) > 1) return "packer";
  if (kind !== "conveyor") return kind;
  if (station.oil_kg != null) return "fryer";
  if (station.heating_c_per_min != null) return "oven";
  return step?.cooling == null ? kind : "cooler";
}

export function StationSign({ sign, className = "h-6 w-6" }: { sign: string; className?: string }) {
  return (
    <svg aria-hidden="true" viewBox="0 0 24 24" className={`text-crust ${className}`} fill="none" stroke="currentColor">
      <path d={SIGNS[sign] ?? ""} strokeWidth="1.6" strokeLinecap="round" strokeLinejoin="round" />
    </svg>
  );
}
