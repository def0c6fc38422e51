import { startTransition, useEffect, useRef, useState } from "react";
import { flushSync } from "react-dom";

/** Whether an element is in the window or no further than so many pixels from it; on paper everything is. */
export function useInSight<Element extends HTMLElement>(marginPx: number) {
  const element = useRef<Element>(null);
  const [seen, setSeen] = useState(false);
  const [printed, setPrinted] = useState(false);
  useEffect(() => {
    if (!element.current) return;
    const look = ([entry]: IntersectionObserverEntry[]) =>
      entry && startTransition(() => setSeen(entry.isIntersecting));
    const observer = new IntersectionObserver(look, { rootMargin: `${marginPx}px` });
    observer.observe(element.current);
    return () => observer.disconnect();
  }, [marginPx]);
  useEffect(() => {
    const before = () => flushSync(() => setPrinted(true));
    const after = () => setPrinted(false);
    window.addEventListener("beforeprint", before);
    window.addEventListener("afterprint", after);
    return () => {
      window.removeEventListener("beforeprint", before);
      window.removeEventListener("afterprint", after);
    };
  }, []);
  return [element, seen || printed] as const;
}
