/** Asks for the name of something new; its key is made from it. */
import { type ReactNode, useState } from "react";
import { Dialog } from "../../ui/Dialog";
import { Button } from "../../ui/parts";

type Props = {
  title: string;
  begun: string;
  button: string;
  children?: ReactNode;
  onName: (name: string) => void;
  onClose: () => void;
};

export function Naming({ title, begun, button, children, onName, onClose }: Props) {
  const [name, setName] = useState(begun);
  const give = () => {
    onName(name.trim());
    onClose();
  };
  return (
    <Dialog open onOpenChange={onClose} title={title}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (name.trim()) give();
        }}
      >
        {children}
        <label className="block text-sm">
          <span className="font-semibold">Name</span>
          <input
            value={name}
            maxLength={80}
            onChange={(event) => setName(event.target.value)}
            className="mt-1 block w-full rounded-md border border-trail/60 bg-ground px-2 py-1.5"
          />
        </label>
        <Button weight="strong" className="mt-4" type="submit" disabled={!name.trim()}>
          {button}
        </Button>
      </form>
    </Dialog>
  );
}
