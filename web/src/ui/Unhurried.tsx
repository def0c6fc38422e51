import { type ReactNode, useDeferredValue } from "react";

/** What takes long to draw the first time, drawn in pieces, so that the page answers meanwhile. */
export function Unhurried({ children, meanwhile }: { children: ReactNode; meanwhile: ReactNode }) {
  return useDeferredValue(true, false) ? children : meanwhile;
}
