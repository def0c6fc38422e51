/** A deed that is asked about once: what takes something away, or what others at once work by. */
import { type ReactNode, useState } from "react";
import { Dialog } from "./Dialog";
import { Button } from "./parts";

type Props = { act: string; question: string; onYes: () => void; children?: ReactNode };

/** A small button, and the question that it opens. */
export function Sure({ act, question, onYes, children }: Props) {
  const [asking, ask] = useState(false);
  return (
    <>
      <button type="button" className="text-xs underline" onClick={() => ask(true)}>
        {act}
      </button>
      <Question open={asking} onOpenChange={ask} act={act} question={question} onYes={onYes}>
        {children}
      </Question>
    </>
  );
}

export function Question(props: Props & { open: boolean; onOpenChange: (open: boolean) => void }) {
  return (
    <Dialog open={props.open} onOpenChange={props.onOpenChange} title={props.question}>
      {props.children}
      <div className="mt-3 flex justify-end gap-2">
        <Button onClick={() => props.onOpenChange(false)}>Cancel</Button>
        <Button
          weight="strong"
          onClick={() => {
            props.onOpenChange(false);
            props.onYes();
          }}
        >
          {props.act}
        </Button>
      </div>
    </Dialog>
  );
}
