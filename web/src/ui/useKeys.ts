import { useEffect, useRef } from "react";

const KEPT = "rundgang-keys";
const OFF = "off";

/** Whether keys of a single letter act: one may switch them off (WCAG 2.2, 2.1.4), and this browser keeps it. */
export const keysAct = () => localStorage.getItem(KEPT) !== OFF;
export const letKeysAct = (act: boolean) => (act ? localStorage.removeItem(KEPT) : localStorage.setItem(KEPT, OFF));

/** Keys that act while a view is shown, unless the user is typing or a dialog is open. */
export function useKeys(keys: Record<string, () => void>) {
  const current = useRef(keys);
  current.current = keys;
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      const typing = /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName) || target.isContentEditable;
      const inWidget = target.closest('[role="dialog"], [role="slider"], [role="radiogroup"]') !== null;
      if (typing || inWidget || event.ctrlKey || event.metaKey || event.altKey) return;
      const act = current.current[event.key];
      if (act && (event.key === "Escape" || keysAct())) {
        event.preventDefault();
        act();
      }
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, []);
}
