import { rememberLine, useWindowView } from "../views/planningWindow";
import { Pick } from "./Pick";

/** Which line one is looking at; where it makes sense, all of them. */
type Props = { line: string; onChange: (line: string) => void; all?: boolean };

export const ALL_LINES = "all";

export function LinePick({ line, onChange, all = false }: Props) {
  const { day } = useWindowView();
  if (day.lines.length < 2) return null;
  return (
    <Pick
      label="Line"
      value={line}
      onChange={(chosen) => {
        if (chosen !== ALL_LINES) rememberLine(chosen);
        onChange(chosen);
      }}
      options={[
        ...day.lines.map((found) => ({ value: found.id, label: found.name })),
        ...(all ? [{ value: ALL_LINES, label: "All lines" }] : []),
      ]}
    />
  );
}
