/** The line that a page is of: picked, remembered, and said in its address. */
import { LinePick } from "../ui/LinePick";
import { useAddress } from "../ui/useAddress";
import { rememberLine } from "./planningWindow";

type Props = { line: string; onChange?: () => void };

export function LineOfPage({ line, onChange }: Props) {
  const [, change] = useAddress();
  return (
    <LinePick
      line={line}
      onChange={(id) => {
        rememberLine(id);
        onChange?.();
        change((parameters) => parameters.set("line", id));
      }}
    />
  );
}
