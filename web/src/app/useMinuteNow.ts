/** What time it is in the plant, for pages that stay open: asked again and again. */
import { useEffect, useReducer } from "react";
import { useWindowView } from "../views/planningWindow";

const LOOKS_MS = 15_000;
const LEAST_MS = 1_000;

/** The minute of the window by the deployment's clock; the page is drawn anew as it goes on. */
export function useMinuteNow(): number {
  const { day, clock } = useWindowView();
  const [, look] = useReducer((count: number) => count + 1, 0);
  useEffect(() => {
    const timer = setInterval(look, Math.max(LEAST_MS, LOOKS_MS / day.clock_speed));
    return () => clearInterval(timer);
  }, [day.clock_speed]);
  return clock.minuteNow();
}
