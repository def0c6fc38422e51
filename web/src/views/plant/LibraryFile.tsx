/** A whole library from a file: read, said what it would change, and taken only then. */
import { useState } from "react";
import { type LibraryUpload, useTakeLibrary } from "../../api/queries";
import { plural } from "../../app/format";
import { Dialog } from "../../ui/Dialog";
import { Button, Refused } from "../../ui/parts";

export function LibraryFile({ onClose }: { onClose: () => void }) {
  const read = useTakeLibrary();
  const take = useTakeLibrary();
  const [upload, setUpload] = useState<LibraryUpload>();
  const choose = (file: File | undefined) => {
    if (!file) return;
    const chosen = { file, take: false };
    setUpload(chosen);
    read.mutate(chosen);
  };
  const found = read.data?.changes;
  return (
    <Dialog open onOpenChange={(open) => !open && onClose()} title="Import a library">
      <p className="mb-3 text-ink-2 text-sm">
        A JSON document or a workbook as this page saves them. It stands for the whole library: what is not in it goes.
      </p>
      <input
        type="file"
        aria-label="Library file"
        accept=".json,.xlsx"
        onChange={(event) => choose(event.target.files?.[0])}
        className="text-sm"
      />
      {read.isPending && <p className="mt-3 text-sm">Reading …</p>}
      {read.isError && (
        <div className="mt-3">
          <Refused error={read.error} />
        </div>
      )}
      {found && (
        <div className="mt-3">
          <p className="font-semibold text-sm">
            {found.length
              ? `${plural(found.length, "change")}. Nothing has been imported yet.`
              : "Nothing in it is different."}
          </p>
          <ul className="mt-1 max-h-60 overflow-auto border-rule border-y py-1 text-sm">
            {found.map((change) => (
              <li key={change}>{change}</li>
            ))}
          </ul>
          {take.isError && <Refused error={take.error} />}
          {found.length > 0 && upload && (
            <Button
              weight="strong"
              className="mt-3"
              disabled={take.isPending}
              onClick={() => take.mutate({ ...upload, take: true }, { onSuccess: onClose })}
            >
              Import this library
            </Button>
          )}
        </div>
      )}
    </Dialog>
  );
}
