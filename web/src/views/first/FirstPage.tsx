/** The first page of an empty Rundgang: look at the demo, or bring a plant in. */
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useBringDemo, useBringPlant } from "../../api/queries";
import { plural } from "../../app/format";
import { toggledTheme } from "../../app/theme";
import { Button, Panel, Refused, WayStop } from "../../ui/parts";
import { BuildView } from "../build/BuildView";

export function FirstPage() {
  const [building, setBuilding] = useState(false);
  if (building) return <BuildView onBack={() => setBuilding(false)} />;
  return (
    <div className="mx-auto flex min-h-dvh max-w-6xl flex-col px-5 py-10">
      <header className="flex items-baseline gap-4">
        <h1 className="font-bold text-3xl">Rundgang</h1>
        <p className="text-ink-2">plans an industrial bakery&apos;s days, from dough to dispatch.</p>
        <Button className="ml-auto" onClick={toggledTheme}>
          Light / dark
        </Button>
      </header>
      <p className="mt-6 text-lg">There is no plant yet. Choose how to begin.</p>
      <main className="mt-4 grid gap-4 lg:grid-cols-3">
        <Panel label="Build a plant" className="p-5">
          <h2 className="font-bold text-lg">Build one</h2>
          <p className="mt-1 text-ink-2 text-sm">
            Choose what the line makes and walk past its stations. Usual figures are filled in; put in yours, and see at
            once what the line carries, where its bottleneck is, and how long flour is on its way.
          </p>
          <Button weight="strong" className="mt-4" onClick={() => setBuilding(true)}>
            Build a plant
          </Button>
        </Panel>
        <Own />
        <Demo />
      </main>
      <section className="mt-8" aria-label="What comes then">
        <h2 className="pb-2 font-bold text-base">What comes then</h2>
        <ol>
          <WayStop>
            <b>Calendar</b>: which lorries leave when, every week, and what is closed.
          </WayStop>
          <WayStop>
            <b>Orders</b>: a file, or a paste from a sheet; for any lorry of the calendar.
          </WayStop>
          <WayStop>
            <b>Plan</b>: search, drag what you know better, publish it for the floor.
          </WayStop>
          <WayStop>
            <b>Next day</b>: what is on the lines goes on, what is over is settled, the window is a day longer.
          </WayStop>
        </ol>
      </section>
      <p className="mt-auto pt-6 text-ink-2 text-xs">
        Rundgang advises; it controls no machine. What it says of heat, dust and machines does not replace local codes
        and trained people.
      </p>
    </div>
  );
}

function Demo() {
  const bring = useBringDemo();
  return (
    <Panel label="The demo plant" className="p-5">
      <h2 className="font-bold text-lg">Look at the demo plant</h2>
      <p className="mt-1 text-ink-2 text-sm">
        Ostermere Bakehouse is made up: five lines of rolls, breads, doughnuts, biscuits and crescents, with orders from
        tomorrow on. Change all of it; it can be deleted on its Plant page.
      </p>
      <Button weight="strong" className="mt-4" disabled={bring.isPending} onClick={() => bring.mutate(undefined)}>
        {bring.isPending ? "Planning its first days …" : "Look at the demo"}
      </Button>
      {bring.isError && <Refused error={bring.error} />}
    </Panel>
  );
}

function Own() {
  const bring = useBringPlant();
  const [file, setFile] = useState<File>();
  const read = bring.data?.origin === null ? bring.data.contents : undefined;
  const choose = (chosen: File | undefined) => {
    setFile(chosen);
    if (chosen) bring.mutate({ file: chosen, take: false });
  };
  return (
    <Panel label="A plant of your own" className="p-5">
      <h2 className="font-bold text-lg">Import a plant</h2>
      <p className="mt-1 text-ink-2 text-sm">
        A whole plant as another Rundgang has saved it, or its library alone, as JSON or as a workbook. It is read
        first; every fault is named, and nothing comes in before all is right.
      </p>
      <input
        type="file"
        aria-label="Plant file"
        accept=".json,.xlsx"
        onChange={(event) => choose(event.target.files?.[0])}
        className="mt-4 text-sm file:mr-3 file:rounded-lg file:border file:border-trail/60 file:bg-ground file:px-3 file:py-1.5 file:font-semibold"
      />
      {bring.isPending && <p className="mt-3 text-sm">Reading …</p>}
      {bring.isError && <Refused error={bring.error} />}
      {read && file && (
        <div className="mt-3">
          <Contents contents={read} />
          <Button
            weight="strong"
            className="mt-3"
            disabled={bring.isPending}
            onClick={() => bring.mutate({ file, take: true })}
          >
            Import it
          </Button>
        </div>
      )}
    </Panel>
  );
}

function Contents({ contents }: { contents: Schemas["Contents"] }) {
  return (
    <p className="text-sm">
      <b>{contents.name}</b>: {plural(contents.lines, "line")}, {plural(contents.products, "product")},{" "}
      {plural(contents.lorries, "lorry", "lorries")}, {plural(contents.orders, "order")}. Nothing has come in yet.
    </p>
  );
}
