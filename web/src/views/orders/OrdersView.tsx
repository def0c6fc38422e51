/** The orders of the day, where they came from, and bringing others in. */

import { useState } from "react";
import { Link } from "react-router";
import { fileAddress, pastWindow, type Schemas } from "../../api/client";
import { useBooks, useHeldFiles, useOrders, useRestoreBook } from "../../api/queries";
import { asksFor, plural, whole } from "../../app/format";
import { momentFormat } from "../../app/moments";
import { Swatch } from "../../charts/dough";
import {
  Button,
  buttonLook,
  Empty,
  Figure,
  Header,
  Heading,
  Loading,
  Notice,
  Older,
  Panel,
  Refused,
} from "../../ui/parts";
import { Unhurried } from "../../ui/Unhurried";
import { useWindowView } from "../planningWindow";
import { ChangeOrder } from "./ChangeOrder";
import { ImportPanel } from "./ImportPanel";
import { Later } from "./Later";
import { NetDemand } from "./NetDemand";
import { UrgentOrder } from "./UrgentOrder";

export function OrdersView() {
  const orders = useOrders();
  if (orders.isPending) return <Loading what="the orders" />;
  if (orders.isError)
    return (
      <div className="m-5">
        <Refused error={orders.error} again={() => orders.refetch()} />
      </div>
    );
  return (
    <Unhurried meanwhile={<Loading what="the orders" />}>
      <Ordered {...orders.data} />
    </Unhurried>
  );
}

function Ordered({ book, orders: lines, beyond, ahead }: Schemas["OrdersView"]) {
  const { day, clock } = useWindowView();
  const [importing, setImporting] = useState(false);
  const [urgent, setUrgent] = useState(false);
  return (
    <>
      <Header
        title="Orders"
        sub={`Book ${book.number}: ${book.origin}`}
        figures={
          <>
            <Figure value={whole(lines.length)} label="orders" />
            <Figure value={whole(day.packs)} label="packs" />
            <Figure value={`${clock.date(0)} ${clock.time(0)}`} label="the shift opens" />
          </>
        }
        actions={
          <>
            <Link to="/calendar" className={buttonLook()}>
              Lorries
            </Link>
            <a href={fileAddress("/api/orders-template.csv")} download className={buttonLook()}>
              Template
            </a>
            <a href={fileAddress("/api/orders.csv")} download className={buttonLook()}>
              Save as CSV
            </a>
            <a href={fileAddress("/api/orders.xlsx")} download className={buttonLook()}>
              Save as workbook
            </a>
            <Button onClick={() => setUrgent(true)}>Urgent order</Button>
            <Button weight="strong" onClick={() => setImporting(!importing)} aria-expanded={importing}>
              Import orders
            </Button>
          </>
        }
      />
      <UrgentOrder open={urgent} onOpenChange={setUrgent} />
      {day.plans.some((plan) => plan.stale) && (
        <div className="mx-2 mb-2">
          <Notice title="Plans were made for other orders, or other data of the plant.">
            <Link to="/plan" className="font-semibold underline">
              Go to the plan
            </Link>{" "}
            to fit it, or to search anew.
          </Notice>
        </div>
      )}
      <HeldFiles />
      <div className="grid flex-1 content-start gap-2 px-2 pb-2 xl:grid-cols-[minmax(0,1fr)_17rem]">
        <div className="grid content-start gap-2">
          {importing && <ImportPanel onDone={() => setImporting(false)} />}
          <Panel label="Packs by product and lorry" className="overflow-auto p-4">
            <Matrix lines={lines} />
          </Panel>
          <Panel label="Stock and what is left to make" className="far-below overflow-auto p-4">
            <NetDemand />
          </Panel>
          {beyond.length > 0 && (
            <Panel label="Later orders" className="far-below overflow-auto p-4">
              <Later orders={beyond} ahead={ahead} />
            </Panel>
          )}
          <Panel label="Order lines" className="far-below overflow-auto p-4">
            {lines.length ? (
              <Lines lines={lines} />
            ) : (
              <Empty title="No orders">Import a file, or paste from a sheet.</Empty>
            )}
          </Panel>
        </div>
        <Panel label="History" className="self-start p-4">
          <History />
        </Panel>
      </div>
    </>
  );
}

type Line = {
  id: string;
  product: string;
  wave: string;
  packs: number;
  customer?: string | null;
  fresh_for_h?: number | null;
};

/** Products down, grouped by their line, lorries across; what nobody ordered is left out. */
function Matrix({ lines }: { lines: Line[] }) {
  const { day, clock, tones } = useWindowView();
  const packs = new Map<string, number>();
  const add = (key: string, count: number) => packs.set(key, (packs.get(key) ?? 0) + count);
  for (const line of lines) {
    add(`${line.product} ${line.wave}`, line.packs);
    add(`${line.product} all`, line.packs);
    add(`all ${line.wave}`, line.packs);
    add("all all", line.packs);
  }
  const cell = (product: string, wave: string) => {
    const count = packs.get(`${product} ${wave}`);
    return count === undefined ? <span className="text-muted">–</span> : whole(count);
  };
  const several = day.lines.length > 1;
  return (
    <table className="w-full text-sm">
      <caption className="pb-2 text-left font-bold text-base">Packs by product and lorry</caption>
      <thead>
        <tr className="border-rule border-b text-right align-bottom text-ink-2 text-xs">
          <th className="py-1.5 text-left font-semibold">Product</th>
          {day.waves.map((wave) => (
            <th key={wave.id} className="min-w-13 py-1.5 pl-2 font-semibold">
              {wave.name}
              <span className="block font-normal">{clock.time(wave.departs_min)}</span>
            </th>
          ))}
          <th className="py-1.5 pl-2 font-semibold">all</th>
        </tr>
      </thead>
      {day.lines.map((line) => (
        <tbody key={line.id}>
          {several && (
            <tr>
              <th colSpan={day.waves.length + 2} className="pt-2 text-left font-semibold text-muted text-xs">
                {line.name}
              </th>
            </tr>
          )}
          {day.products
            .filter((product) => product.line === line.id && packs.has(`${product.id} all`))
            .map((product) => (
              <tr key={product.id} className="border-rule border-b text-right">
                <th scope="row" className="whitespace-nowrap py-1 text-left font-normal">
                  <Swatch index={tones.get(product.id) ?? 0} /> {product.name}
                </th>
                {day.waves.map((wave) => (
                  <td key={wave.id} className="py-1 pl-2">
                    {cell(product.id, wave.id)}
                  </td>
                ))}
                <td className="py-1 pl-2 font-semibold">{cell(product.id, "all")}</td>
              </tr>
            ))}
        </tbody>
      ))}
      <tbody>
        <tr className="text-right font-bold">
          <th scope="row" className="py-1.5 text-left">
            All products
          </th>
          {day.waves.map((wave) => (
            <td key={wave.id} className="py-1.5 pl-2">
              {cell("all", wave.id)}
            </td>
          ))}
          <td className="py-1.5 pl-2">{cell("all", "all")}</td>
        </tr>
      </tbody>
    </table>
  );
}

const SHOWN_AT_ONCE = 200;

function Lines({ lines }: { lines: Line[] }) {
  const { clock, day, names, waveNames } = useWindowView();
  const [all, setAll] = useState(false);
  const [changing, setChanging] = useState<Line>();
  const departs = new Map(day.waves.map((wave) => [wave.id, wave.departs_min]));
  return (
    <>
      <table className="w-full text-sm">
        <caption className="pb-2 text-left font-bold text-base">{plural(lines.length, "order line")}</caption>
        <thead>
          <tr className="border-rule border-b text-left text-ink-2 text-xs">
            <th className="py-1.5 font-semibold">Order</th>
            <th className="py-1.5 font-semibold">Lorry</th>
            <th className="py-1.5 font-semibold">Product</th>
            <th className="py-1.5 text-right font-semibold">Packs</th>
            {pastWindow === undefined && (
              <th className="py-1.5">
                <span className="sr-only">Change</span>
              </th>
            )}
          </tr>
        </thead>
        <tbody>
          {lines.slice(0, all ? undefined : SHOWN_AT_ONCE).map((line) => (
            <tr key={`${line.id} ${line.product} ${line.wave}`} className="border-rule border-b">
              <td className="py-1.5">
                {line.id}
                {line.customer && <span className="text-ink-2">, {line.customer}</span>}
              </td>
              <td className="py-1.5">
                {clock.time(departs.get(line.wave) ?? 0)} {waveNames.get(line.wave)}
              </td>
              <td className="py-1.5">
                {names.get(line.product)}
                {line.fresh_for_h != null && <span className="text-ink-2">, {asksFor(line.fresh_for_h)}</span>}
              </td>
              <td className="py-1.5 text-right">{whole(line.packs)}</td>
              {pastWindow === undefined && (
                <td className="py-1.5 pl-4 text-right">
                  <button type="button" className="text-xs underline" onClick={() => setChanging(line)}>
                    Change<span className="sr-only"> order {line.id}</span>
                  </button>
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
      {changing && (
        <ChangeOrder
          order={{ number: changing.id, product: changing.product, wave: changing.wave }}
          packs={changing.packs}
          said={`${changing.id}: ${names.get(changing.product)} for ${waveNames.get(changing.wave)}`}
          onDone={() => setChanging(undefined)}
        />
      )}
      {!all && lines.length > SHOWN_AT_ONCE && (
        <Button className="mt-3" onClick={() => setAll(true)}>
          Show all {whole(lines.length)}
        </Button>
      )}
    </>
  );
}

/** Files of the inbox that were not taken, each with its faults. */
function HeldFiles() {
  const held = useHeldFiles().data ?? [];
  if (held.length === 0) return null;
  return (
    <div className="mx-2 mb-2">
      <Notice tone="wrong" title={`${plural(held.length, "file")} of the inbox held, for it has wrong rows`}>
        <ul className="list-disc pl-5">
          {held.slice(0, 8).map((file) => (
            <li key={file.name}>
              <b>{file.name}</b>: {file.faults[0]}
              {file.faults.length > 1 && ` and ${file.faults.length - 1} more`}
            </li>
          ))}
        </ul>
        Mend the file and drop it again; the one that is held stays where it is.
      </Notice>
    </div>
  );
}

function History() {
  const books = useBooks();
  const restore = useRestoreBook();
  const { day } = useWindowView();
  const format = momentFormat(day.time_zone, { dateStyle: "short", timeStyle: "short" });
  return (
    <>
      <h2 className="font-bold text-lg leading-6">Where the orders came from</h2>
      <p className="text-ink-2 text-xs">Every change is a new book. Restore an earlier one to undo.</p>
      {restore.isError && <Refused error={restore.error} />}
      <Heading>Newest first</Heading>
      {books.error && <Refused error={books.error} />}
      <ol>
        {books.data?.map((book, index) => (
          <li key={book.number} className="flex items-center gap-3 border-rule border-b py-2 text-sm">
            <span className="flex-1">
              <span className="font-semibold">Book {book.number}</span> {book.origin}
              <span className="block text-ink-2 text-xs">{format.format(new Date(book.created_at))}</span>
            </span>
            {index === 0 ? (
              <span className="font-semibold text-steam text-xs">in use</span>
            ) : (
              <Button onClick={() => restore.mutate(book.number)} disabled={restore.isPending}>
                Restore
              </Button>
            )}
          </li>
        ))}
      </ol>
      <Older of={books} />
    </>
  );
}
