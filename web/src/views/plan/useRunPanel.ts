/** The way between a run and its panel: Enter on the run goes into it, Escape in it goes back; a tap brings it in sight. */
import { type KeyboardEvent, useEffect, useRef } from "react";

export function useRunPanel(run: string | undefined) {
  const panel = useRef<HTMLElement>(null);
  const goesIn = useRef(false);
  const shown = useRef(run);
  const enter = (id: string) => {
    if (id === run) panel.current?.focus();
    else goesIn.current = true;
  };
  useEffect(() => {
    const changed = run !== shown.current;
    shown.current = run;
    if (!run || !changed) return;
    if (goesIn.current) panel.current?.focus();
    goesIn.current = false;
    const below = (panel.current?.getBoundingClientRect().top ?? 0) > window.innerHeight * IN_SIGHT;
    if (below) panel.current?.scrollIntoView({ block: "start" });
  }, [run]);
  const onKeyDown = (event: KeyboardEvent) => {
    if (event.key !== "Escape" || !run) return;
    event.stopPropagation();
    document.querySelector<SVGGElement>(`[data-run="${run}"]`)?.focus();
  };
  return { panel, enter, onKeyDown };
}

/** A panel that begins further down the window than this share of it is not in sight. */
const IN_SIGHT = 0.8;
