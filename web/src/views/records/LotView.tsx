/** A lot: its way drawn from what came in to the lorries, whether it balances, and what one can do with it. */
import { useState } from "react";
import { Link, useParams } from "react-router";
import { fileAddress, type Schemas } from "../../api/client";
import { useClear, useLot, usePrintLabel } from "../../api/queries";
import { plural, whole } from "../../app/format";
import { useUnits } from "../../app/units";
import { Button, buttonLook, Figure, Header, Loading, Notice, Panel, Refused } from "../../ui/parts";
import { useWindowView } from "../planningWindow";
import { Balance } from "./Balance";
import { type LotAct, LotDialog } from "./LotDialog";
import { WayOfLot } from "./WayOfLot";
import { amountOf, KINDS } from "./words";

type View = Schemas["LotView"];

export function LotView() {
  const number = Number(useParams().number);
  const found = useLot(number);
  if (found.isError)
    return (
      <div className="m-5">
        <Refused error={found.error} again={() => found.refetch()} />
      </div>
    );
  if (!found.data) return <Loading what="the lot" />;
  return <OneLot view={found.data} />;
}

function OneLot({ view }: { view: View }) {
  const units = useUnits();
  const [act, open] = useState<LotAct>();
  const clear = useClear();
  const print = usePrintLabel();
  const { line } = view;
  const { lot } = line;
  const isHeld = view.held.length > 0;
  return (
    <>
      <Header
        title={line.what}
        sub={`${lot.code}, ${KINDS[lot.kind]}${lot.supplier ? `, supplier's lot ${lot.supplier}` : ""}`}
        figures={
          <>
            <Figure
              value={amountOf(lot.amount, line.unit, units)}
              label={lot.kind === "material" ? "came in" : "made"}
            />
            <Figure value={amountOf(Math.max(0, line.left), line.unit, units)} label="there" />
            {lot.best_before && <Figure value={lot.best_before} label="best before" />}
          </>
        }
        actions={
          <>
            <a className={buttonLook()} href={fileAddress(`/api/lots/${lot.number}/label.pdf`)}>
              Label
            </a>
            <Button disabled={print.isPending} onClick={() => print.mutate({ number: lot.number, copies: 1 })}>
              Print the label
            </Button>
            <a className={buttonLook()} href={fileAddress(`/api/lots/${lot.number}/recall.pdf`)}>
              Recall, PDF
            </a>
            <a className={buttonLook()} href={fileAddress(`/api/lots/${lot.number}/recall.json`)}>
              EPCIS
            </a>
            {lot.kind === "packs" && <Button onClick={() => open("scrap")}>Scrap</Button>}
            {view.asks_clearing && !isHeld && <Button onClick={() => clear.mutate([lot.number])}>Clear to load</Button>}
            {isHeld ? (
              <Button weight="strong" onClick={() => open("release")}>
                Release
              </Button>
            ) : (
              <Button weight="strong" onClick={() => open("hold")}>
                Hold
              </Button>
            )}
          </>
        }
      />
      {clear.isError && <Refused error={clear.error} />}
      {print.isError && <Refused error={print.error} />}
      {print.data && (
        <div className="mx-2 mb-2">
          <Notice
            tone="good"
            title={
              print.data.simulated
                ? `Printed on a simulated printer: as PDF and PNG in ${print.data.printer}.`
                : `Printed by ${print.data.printer}.`
            }
          />
        </div>
      )}
      {view.held.map((event) => (
        <div key={event.number} className="mx-2 mb-2">
          <Notice tone="wrong" title={`Held by ${event.author}: ${String(event.said.reason)}`}>
            It is not weighed in or loaded, and the plan counts its packs as absent.
          </Notice>
        </div>
      ))}
      <div className="grid grid-cols-[minmax(0,1fr)] gap-2 px-2 pb-2">
        <WayOfLot view={view} />
        <div className="grid gap-2 lg:grid-cols-2">
          <Balance view={view} />
          <History view={view} />
        </div>
      </div>
      {act && <LotDialog act={act} view={view} onClose={() => open(undefined)} />}
    </>
  );
}

const DONE: Record<string, string> = {
  hold: "held",
  release: "released",
  scrap: "scrapped",
  cleared: "cleared to load",
  empty: "used up",
  charged: "all in",
  phase: "speed begun",
  added: "late addition in",
  discharged: "out of the bowl",
};

function History({ view }: { view: View }) {
  const { clock } = useWindowView();
  return (
    <Panel label="What became of it" className="p-4">
      <h2 className="mb-1 font-bold">What became of it</h2>
      {view.events.length === 0 && view.loads.length === 0 && <p className="text-ink-2 text-sm">Nothing yet.</p>}
      <ol className="text-sm">
        {view.events.map((event) => (
          <li key={event.number} className="border-rule border-b py-1">
            <b>{clock.moment(clock.minuteAt(event.at))}</b> {DONE[event.kind] ?? event.kind}
            {event.said.packs != null && `, ${plural(Number(event.said.packs), "pack")}`}
            {event.said.what != null && ` (${String(event.said.what)})`}
            {[event.said.cause, event.said.reason].some(Boolean) &&
              `: ${[event.said.cause, event.said.reason].filter(Boolean).map(String).join(", ")}`}
            <span className="text-ink-2">, {event.author}</span>
          </li>
        ))}
        {view.loads
          .filter((load) => load.lot === view.line.lot.number)
          .map((load) => (
            <li key={`${load.lorry} ${load.at} ${load.packs}`} className="border-rule border-b py-1">
              <b>{clock.moment(clock.minuteAt(load.at))}</b> {whole(load.packs)} packs on{" "}
              <Link className="underline" to={`/dispatch?lorry=${load.lorry}`}>
                {view.lorries[load.lorry] ?? load.lorry}
              </Link>
              <span className="text-ink-2">, {load.author}</span>
            </li>
          ))}
      </ol>
    </Panel>
  );
}
