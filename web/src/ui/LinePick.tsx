import { rememberLine, useDayView } from "../views/day";
import { Pick } from "./Pick";

/** Which line one is looking at. */
export function LinePick({ line, onChange }: { line: string; onChange: (line: string) => void }) {
  const { day } = useDayView();
  if (day.lines.length < 2) return null;
  return (
    <Pick
      label="Line"
      value={line}
      onChange={(chosen) => {
        rememberLine(chosen);
        onChange(chosen);
      }}
      options={day.lines.map((found) => ({ value: found.id, label: found.name }))}
    />
  );
}
