/** The library as files, its versions, and the whole plant. */
import { useState } from "react";
import { fileAddress } from "../../api/client";
import { Dialog } from "../../ui/Dialog";
import { Button, buttonLook, Heading } from "../../ui/parts";
import { LibraryFile } from "./LibraryFile";
import { Versions } from "./Versions";
import { WholePlant } from "./WholePlant";

export function Files({ newest, onClose }: { newest: number; onClose: () => void }) {
  const [open, setOpen] = useState<"file" | "versions" | "whole">();
  if (open === "file") return <LibraryFile onClose={onClose} />;
  if (open === "versions") return <Versions newest={newest} onClose={onClose} />;
  if (open === "whole") return <WholePlant onClose={onClose} />;
  return (
    <Dialog open onOpenChange={onClose} title="Files and versions">
      <Heading>What the plant is and makes, as it is in use</Heading>
      <div className="flex flex-wrap gap-2">
        <a href={fileAddress("/api/library/file.json")} download className={buttonLook()}>
          Save as JSON
        </a>
        <a href={fileAddress("/api/library/file.xlsx")} download className={buttonLook()}>
          Save as workbook
        </a>
        <Button onClick={() => setOpen("file")}>Import a library</Button>
        <Button onClick={() => setOpen("versions")}>Versions</Button>
      </div>
      <Heading>With its calendar, orders, stock and what is on the lines</Heading>
      <Button onClick={() => setOpen("whole")}>Whole plant</Button>
    </Dialog>
  );
}
