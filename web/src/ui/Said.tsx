import { useUnits } from "../app/units";

/** What the API has put into words, with its figures in the units that one reads. */
export function Said({ text }: { text: string | null | undefined }) {
  const units = useUnits();
  return <>{units.text(text ?? "")}</>;
}
