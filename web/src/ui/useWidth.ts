import { useEffect, useRef, useState } from "react";

/** The width of an element in pixels, followed as it changes. */
export function useWidth<Element extends HTMLElement>(first: number) {
  const element = useRef<Element>(null);
  const [width, setWidth] = useState(first);
  useEffect(() => {
    if (!element.current) return;
    const observer = new ResizeObserver(([entry]) => entry && setWidth(Math.round(entry.contentRect.width)));
    observer.observe(element.current);
    return () => observer.disconnect();
  }, []);
  return [element, width] as const;
}
