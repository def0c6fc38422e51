import { useRouteError } from "react-router";
import { Button, Notice } from "../ui/parts";

/** What is shown when a screen itself fails: what was saved is saved, and there is a way on. */
export function Broken() {
  const error = useRouteError();
  return (
    <main className="m-5">
      <Notice tone="wrong" title="This screen has failed. What was saved before is safe.">
        <p>{error instanceof Error ? error.message : "The cause is not known."}</p>
        <Button className="mt-2" onClick={() => window.location.reload()}>
          Show it again
        </Button>
      </Notice>
    </main>
  );
}
