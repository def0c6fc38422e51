/** What is said to whoever does not see the screen: one line, spoken when it changes. */
import { useSyncExternalStore } from "react";

let said = "";
const listeners = new Set<() => void>();

export function say(text: string) {
  // The same words twice are spoken twice only if they differ; a space that nobody hears makes them.
  said = text === said ? `${text}\u00a0` : text;
  for (const tell of listeners) tell();
}

export function Spoken() {
  const text = useSyncExternalStore(
    (tell) => {
      listeners.add(tell);
      return () => listeners.delete(tell);
    },
    () => said,
  );
  return (
    <p role="status" aria-label="What happened" className="sr-only">
      {text}
    </p>
  );
}
