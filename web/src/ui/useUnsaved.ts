/** Changes that are not saved: leaving the page, or the address, asks first. */
import { useEffect } from "react";
import { useBlocker } from "react-router";

export function useUnsaved(unsaved: boolean) {
  const blocker = useBlocker(unsaved);
  useEffect(() => {
    if (blocker.state !== "blocked") return;
    if (confirm("Leave without saving your changes?")) blocker.proceed();
    else blocker.reset();
  }, [blocker]);
  useEffect(() => {
    if (!unsaved) return undefined;
    const ask = (event: BeforeUnloadEvent) => event.preventDefault();
    addEventListener("beforeunload", ask);
    return () => removeEventListener("beforeunload", ask);
  }, [unsaved]);
}
