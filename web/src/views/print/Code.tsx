/** A code that opens a page of this Rundgang, for whoever has a sheet in the hand. */
import { windowedPath } from "../../api/client";

export function Code({ path }: { path: string }) {
  return (
    <img
      src={`/api/code.svg?path=${encodeURIComponent(windowedPath(path))}`}
      alt={`Code that opens ${path}`}
      width={72}
      height={72}
      className="hidden bg-white print:block"
    />
  );
}
