/** Bringing orders in: a file or pasted rows, read first, taken only when the planner says so. */
import { type ChangeEvent, type DragEvent, useState } from "react";
import { type Upload, useImportOrders, useOrderColumns, useReadOrders } from "../../api/queries";
import { plural, whole } from "../../app/format";
import { Choice } from "../../ui/Choice";
import { Button, Notice, Panel, Refused } from "../../ui/parts";
import { Headings } from "./Headings";
import { OrderChanges } from "./OrderChanges";

const SHOWN_FAULTS = 100;
const DELIMITERS: Record<string, string> = { ",": "commas", ";": "semicolons", "\t": "tabs" };

export function ImportPanel({ onDone }: { onDone: () => void }) {
  const [mode, setMode] = useState<Upload["mode"]>("add");
  const [pasted, setPasted] = useState("");
  const [upload, setUpload] = useState<Upload>();
  const [columns, setColumns] = useState<string>();
  const kept = useOrderColumns().data ?? [];
  const read = useReadOrders();
  const take = useImportOrders();

  const look = (text: Blob, name: string, as = mode, headings = columns) => {
    const chosen = { text, name, mode: as, columns: headings || undefined };
    setColumns(headings || undefined);
    setUpload(chosen);
    take.reset();
    read.mutate(chosen);
  };
  const chooseMode = (as: Upload["mode"]) => {
    setMode(as);
    if (upload) look(upload.text, upload.name, as);
  };
  const chosen = (event: ChangeEvent<HTMLInputElement>) => {
    const file = event.target.files?.[0];
    if (file) look(file, file.name);
    event.target.value = "";
  };
  const dropped = (event: DragEvent) => {
    event.preventDefault();
    const file = event.dataTransfer.files[0];
    if (file) look(file, file.name);
  };
  const takeThem = (which: "all" | "good") => upload && take.mutate({ ...upload, take: which }, { onSuccess: onDone });
  const discard = () => {
    read.reset();
    take.reset();
    setUpload(undefined);
  };

  return (
    <Panel label="Import orders" className="p-4">
      <div className="flex flex-wrap items-center justify-between gap-3">
        <h2 className="font-bold text-lg">Import orders</h2>
        <Choice
          label="What happens to the day's orders"
          value={mode}
          onChange={chooseMode}
          options={[
            { value: "add", label: "Add to the day's" },
            { value: "replace", label: "Replace all orders" },
          ]}
        />
      </div>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: dropping a file is an extra way beside the button */}
      <div
        className="mt-3 grid gap-3 md:grid-cols-[14rem_1fr]"
        onDragOver={(event) => event.preventDefault()}
        onDrop={dropped}
      >
        <label className="grid cursor-pointer place-items-center rounded-lg border-2 border-trail border-dashed p-4 text-center text-sm focus-within:border-steam hover:border-crust">
          <span>
            <span className="block font-semibold">Choose a CSV file or a workbook</span>
            <span className="text-ink-2 text-xs">or drop it here</span>
          </span>
          <input type="file" accept=".csv,.xlsx,text/csv,text/plain" onChange={chosen} className="sr-only" />
        </label>
        <div>
          <textarea
            aria-label="Rows pasted from a sheet"
            value={pasted}
            onChange={(event) => setPasted(event.target.value)}
            rows={4}
            placeholder={"order,dispatch,product,packs"}
            className="w-full rounded-lg border border-trail/60 bg-ground p-2 font-mono text-sm"
          />
          <Button onClick={() => look(new Blob([pasted]), "pasted rows")} disabled={!pasted.trim() || read.isPending}>
            Read the pasted rows
          </Button>
        </div>
      </div>
      <label className="mt-2 block text-ink-2 text-xs">
        headings{" "}
        <select
          className="rounded border border-trail/60 bg-ground px-2 py-1 text-ink text-sm"
          value={columns ?? ""}
          onChange={(event) => {
            setColumns(event.target.value || undefined);
            if (upload) look(upload.text, upload.name, mode, event.target.value);
          }}
        >
          <option value="">as in the template</option>
          {kept.map((one) => (
            <option key={one.name}>{one.name}</option>
          ))}
        </select>
      </label>
      <div className="mt-3 grid gap-2">
        {read.isPending && <p role="status">Reading …</p>}
        {read.isError && <Refused error={read.error} />}
        {take.isError && <Refused error={take.error} />}
        {read.data && upload && lacksColumns(read.data) && (
          <Headings
            headings={read.data.file.headings}
            firstRow={read.data.file.first_row}
            onKept={(kept) => look(upload.text, upload.name, mode, kept)}
          />
        )}
        {read.data && upload?.mode === "replace" && read.data.file.orders.length > 0 && (
          <OrderChanges changes={read.data.changes ?? []} />
        )}
        {read.data && upload && !lacksColumns(read.data) && (
          <Found view={read.data} upload={upload} busy={take.isPending} onTake={takeThem} onDiscard={discard} />
        )}
      </div>
    </Panel>
  );
}

/** Whether a file has rows, but not under our headings. */
const lacksColumns = ({ file }: FoundProps["view"]) =>
  file.first_row.length > 1 &&
  file.orders.length === 0 &&
  file.faults.some(({ allowed }) => /^a column named/.test(allowed));

type FoundProps = {
  view: NonNullable<ReturnType<typeof useReadOrders>["data"]>;
  upload: Upload;
  busy: boolean;
  onTake: (which: "all" | "good") => void;
  onDiscard: () => void;
};

function Found({ view, upload, busy, onTake, onDiscard }: FoundProps) {
  const { file, packs } = view;
  const good = file.orders.length;
  const between = DELIMITERS[file.delimiter];
  const read = between ? `${file.encoding}, ${between} between the columns` : file.encoding;
  const ignored = file.ignored_columns.length ? `; not needed: ${file.ignored_columns.join(", ")}` : "";
  const wrong = file.wrong_rows;
  return (
    <>
      <Notice
        tone={wrong ? "wrong" : "good"}
        title={`${upload.name}: ${plural(good, "good row")} with ${whole(packs)} packs, ${plural(wrong, "wrong row")}`}
      >
        <p className="text-ink-2 text-xs">
          Read as {read}
          {ignored}. Nothing has been imported yet.
        </p>
      </Notice>
      {wrong > 0 && (
        <table className="w-full text-sm">
          <caption className="sr-only">Wrong rows</caption>
          <thead>
            <tr className="border-rule border-b text-left text-ink-2 text-xs">
              {["Line", "Column", "Found", "Allowed"].map((head) => (
                <th key={head} className="py-1 pr-3 font-semibold">
                  {head}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {file.faults.slice(0, SHOWN_FAULTS).map((fault) => (
              <tr key={`${fault.line}-${fault.column}`} className="border-rule border-b align-top">
                <td className="py-1 pr-3 font-semibold">{fault.line}</td>
                <td className="py-1 pr-3">{fault.column}</td>
                <td className="py-1 pr-3 font-semibold text-ember">{fault.found || "nothing"}</td>
                <td className="py-1">{fault.allowed}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {file.fault_count > SHOWN_FAULTS && (
        <p className="text-ink-2 text-sm">and {whole(file.fault_count - SHOWN_FAULTS)} more</p>
      )}
      <div className="flex gap-2">
        {good > 0 && (
          <Button weight="strong" disabled={busy} onClick={() => onTake(wrong ? "good" : "all")}>
            Import the {plural(good, "good row")}
          </Button>
        )}
        <Button disabled={busy} onClick={onDiscard}>
          Cancel
        </Button>
      </div>
    </>
  );
}
