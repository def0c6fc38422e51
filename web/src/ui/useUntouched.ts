/** Whether nobody has touched the page for a while: then it may go on by itself. */
import { useEffect, useState } from "react";

const WHILE_MS = 120_000;

export function useUntouched(): boolean {
  const [untouched, set] = useState(true);
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout>;
    const touched = () => {
      set(false);
      clearTimeout(timer);
      timer = setTimeout(() => set(true), WHILE_MS);
    };
    const events = ["pointerdown", "keydown", "wheel"] as const;
    for (const event of events) addEventListener(event, touched, { passive: true });
    return () => {
      clearTimeout(timer);
      for (const event of events) removeEventListener(event, touched);
    };
  }, []);
  return untouched;
}
