/** By what is measured, the quantity of the table of units; what is not in it is the same in both systems. */
export const UNIT_OF: Record<string, string> = {
  temperature: "temperature",
  speed: "belt speed",
  weight: "piece mass",
};
