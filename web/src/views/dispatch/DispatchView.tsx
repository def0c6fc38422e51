/** Dispatch: each lorry with what it is due, what is on it, and the lots that may go on; and that it leaves. */
import { useState } from "react";
import { Link } from "react-router";
import { fileAddress, type Schemas } from "../../api/client";
import { useDispatch, useLeave, useLoad, useLoadOldest } from "../../api/queries";
import { duration, whole } from "../../app/format";
import { useMinuteNow } from "../../app/useMinuteNow";
import { Button, buttonLook, Empty, Header, Loading, Notice, Panel, Refused } from "../../ui/parts";
import { useAddress } from "../../ui/useAddress";
import { useWindowView } from "../planningWindow";

type Lorry = Schemas["LorryView"];
type Product = Lorry["products"][number];

const onIt = (product: Product) => product.loaded.reduce((sum, lot) => sum + lot.packs, 0);

export function DispatchView() {
  const found = useDispatch();
  const [search, change] = useAddress();
  if (found.isError)
    return (
      <div className="m-5">
        <Refused error={found.error} again={() => found.refetch()} />
      </div>
    );
  if (!found.data) return <Loading what="the lorries" />;
  const lorries = found.data;
  const shown =
    lorries.find((lorry) => lorry.lorry === search.get("lorry")) ??
    lorries.find((lorry) => lorry.left_at == null) ??
    lorries.at(-1);
  return (
    <>
      <Header
        title="Dispatch"
        sub="what each lorry is due, what is on it and of which lot"
        actions={
          <Link to="/records" className={buttonLook()}>
            Records
          </Link>
        }
      />
      {!shown && <Empty title="No lorry leaves these days">The calendar says which lorry leaves when.</Empty>}
      {shown && (
        <div className="grid grid-cols-[minmax(0,1fr)] content-start gap-2 px-2 pb-2 md:grid-cols-[15rem_1fr]">
          <nav aria-label="Lorries">
            <ol className="flex gap-1.5 overflow-x-auto md:grid">
              {lorries.map((lorry) => (
                <li key={lorry.lorry} className="min-w-48">
                  <Choice
                    lorry={lorry}
                    here={lorry === shown}
                    onChoose={() => change((parameters) => parameters.set("lorry", lorry.lorry))}
                  />
                </li>
              ))}
            </ol>
          </nav>
          <OneLorry
            key={shown.lorry}
            lorry={shown}
            onLeft={() => change((parameters) => parameters.set("lorry", shown.lorry))}
          />
        </div>
      )}
    </>
  );
}

function Choice({ lorry, here, onChoose }: { lorry: Lorry; here: boolean; onChoose: () => void }) {
  const { clock } = useWindowView();
  const ordered = lorry.products.reduce((sum, product) => sum + product.ordered, 0);
  const on = lorry.products.reduce((sum, product) => sum + onIt(product), 0);
  return (
    <button
      type="button"
      aria-current={here ? "true" : undefined}
      onClick={onChoose}
      className="block min-h-[48px] w-full rounded-lg border border-rule bg-paper px-3 py-2 text-left text-sm hover:border-trail aria-[current=true]:border-2 aria-[current=true]:border-crust"
    >
      <span className="block font-semibold">{lorry.name}</span>
      <span className="block">
        {lorry.left_at ? "left" : "leaves"} {clock.moment(lorry.departs_min)}
      </span>
      <span className="text-ink-2 text-xs">
        {lorry.left_at ? "with " : ""}
        {whole(on)} of {whole(ordered)} packs
      </span>
    </button>
  );
}

function OneLorry({ lorry, onLeft }: { lorry: Lorry; onLeft: () => void }) {
  const { clock } = useWindowView();
  const now = useMinuteNow();
  const toGo = lorry.loaded_by_min - now;
  return (
    <div className="grid content-start gap-2">
      <Panel label={lorry.name} className="flex flex-wrap items-center gap-x-6 gap-y-2 p-4">
        <h2 className="font-bold text-xl">{lorry.name}</h2>
        <p className="text-sm">
          leaves {clock.moment(lorry.departs_min)}, loaded by {clock.time(lorry.loaded_by_min)}
          {!lorry.left_at && toGo > 0 && (
            <>
              , <b>{duration(toGo)}</b> from now
            </>
          )}
        </p>
        <a
          className={`ml-auto ${buttonLook()}`}
          href={fileAddress(`/api/dispatch/${encodeURIComponent(lorry.lorry)}/note.pdf`)}
        >
          Delivery note, PDF
        </a>
      </Panel>
      {lorry.left_at && (
        <Notice tone="note" title={`It has left, says ${lorry.author}.`}>
          What is loaded has left the stock.
        </Notice>
      )}
      {lorry.products.map((product) => (
        <OfProduct key={product.product} lorry={lorry} product={product} />
      ))}
      {!lorry.left_at && <Leaves lorry={lorry} onLeft={onLeft} />}
    </div>
  );
}

function OfProduct({ lorry, product }: { lorry: Lorry; product: Product }) {
  const load = useLoad();
  const oldest = useLoadOldest();
  const may = product.there.reduce((sum, lot) => sum + (lot.refused ? 0 : lot.packs), 0);
  const on = onIt(product);
  const share = Math.min(1, on / Math.max(1, product.ordered));
  const missing = Math.max(0, product.ordered - on);
  const put = (lot: number, packs: number, reason = "") => load.mutate({ lorry: lorry.lorry, lot, packs, reason });
  return (
    <Panel label={product.name} className="p-4">
      <div className="flex flex-wrap items-baseline justify-between gap-x-4">
        <h3 className="font-bold">{product.name}</h3>
        <p className={on === product.ordered ? "text-sm text-steam" : "text-sm"}>
          <b>{whole(on)}</b> of {whole(product.ordered)} packs
          {missing > 0 && <span className="text-ink-2">, {whole(missing)} to go</span>}
          {on > product.ordered && (
            <span className="font-semibold text-ember">, {whole(on - product.ordered)} over</span>
          )}
        </p>
      </div>
      <div aria-hidden="true" className="mt-1 h-2 overflow-hidden rounded bg-rule">
        <div className="h-full bg-steam" style={{ width: `${share * 100}%` }} />
      </div>
      {product.reason && <p className="mt-1 text-ember text-sm">{product.reason}</p>}
      <ul className="mt-2 text-sm">
        {product.loaded.map((lot) => (
          <li key={lot.lot} className="flex min-h-[48px] flex-wrap items-center gap-x-3 border-rule border-t py-1">
            <span className="font-semibold">{whole(lot.packs)} on it</span>
            <Link to={`/lots/${lot.lot}`} className="underline">
              {lot.code}
            </Link>
            <span className="text-ink-2 text-xs">{lot.author}</span>
            {!lorry.left_at && (
              <Button size="small" className="ml-auto" onClick={() => put(lot.lot, -lot.packs)}>
                Take off
              </Button>
            )}
          </li>
        ))}
        {product.there.map((lot) => (
          <There
            key={lot.lot}
            lot={lot}
            most={missing}
            busy={load.isPending}
            onLoad={(packs, reason) => put(lot.lot, packs, reason)}
          />
        ))}
      </ul>
      {product.there.length === 0 && !lorry.left_at && missing > 0 && (
        <p className="mt-1 text-ink-2 text-sm">Nothing more of it is there yet.</p>
      )}
      {missing > 0 && may > 0 && (
        <Button
          weight="strong"
          size="touch"
          className="mt-2"
          disabled={oldest.isPending}
          onClick={() => oldest.mutate({ lorry: lorry.lorry, product: product.product })}
        >
          Load the oldest {whole(Math.min(missing, may))}
        </Button>
      )}
      {load.isError && <Refused error={load.error} />}
      {oldest.isError && <Refused error={oldest.error} />}
    </Panel>
  );
}

type ThereProps = {
  lot: Product["there"][number];
  most: number;
  busy: boolean;
  onLoad: (packs: number, reason: string) => void;
};

function There({ lot, most, busy, onLoad }: ThereProps) {
  const [text, setText] = useState<string>();
  const [reason, setReason] = useState("");
  const { clock } = useWindowView();
  const tooOld = lot.refused?.kind === "too old";
  const packs = Number(text ?? Math.min(lot.packs, most));
  return (
    <li className="flex min-h-[48px] flex-wrap items-center gap-x-3 gap-y-1 border-rule border-t py-1">
      <span>{whole(lot.packs)} there</span>
      <Link to={`/lots/${lot.lot}`} className="underline">
        {lot.code}
      </Link>
      <span className="text-ink-2 text-xs">
        from {clock.moment(clock.minuteAt(lot.made_at))}
        {lot.best_before && `, best before ${lot.best_before}`}
      </span>
      {lot.refused && <span className="font-semibold text-ember text-xs">{lot.refused.says}</span>}
      {tooOld && (
        <input
          aria-label={`Why ${lot.code} goes all the same`}
          placeholder="why it goes all the same"
          value={reason}
          maxLength={200}
          onChange={(event) => setReason(event.target.value)}
          className="min-h-[48px] rounded-lg border border-trail/60 bg-ground px-2"
        />
      )}
      {(!lot.refused || tooOld) && (
        <span className="ml-auto flex items-center gap-2">
          <input
            aria-label={`Packs of ${lot.code}`}
            inputMode="numeric"
            value={text ?? String(packs)}
            onChange={(event) => setText(event.target.value)}
            className="min-h-[48px] w-24 rounded-lg border border-trail/60 bg-ground px-2 text-right font-semibold"
          />
          <Button
            size="touch"
            disabled={!(packs > 0) || busy || (tooOld && reason.trim() === "")}
            onClick={() => onLoad(packs, reason)}
          >
            Load
          </Button>
        </span>
      )}
    </li>
  );
}

/** It leaves: what is short or over has a reason. */
function Leaves({ lorry, onLeft }: { lorry: Lorry; onLeft: () => void }) {
  const leave = useLeave();
  const [reasons, setReasons] = useState<Record<string, string>>({});
  const off = lorry.products.filter((product) => onIt(product) !== product.ordered);
  return (
    <Panel label="It leaves" className="p-4">
      <h3 className="mb-1 font-bold">It leaves</h3>
      {off.map((product) => (
        <label key={product.product} className="mb-2 block text-sm">
          {product.name}: {whole(Math.abs(onIt(product) - product.ordered))}{" "}
          {onIt(product) < product.ordered ? "short" : "over"}. Why
          <input
            value={reasons[product.product] ?? ""}
            maxLength={200}
            onChange={(event) => setReasons({ ...reasons, [product.product]: event.target.value })}
            className="mt-1 block min-h-[48px] w-full rounded-lg border border-trail/60 bg-ground px-3"
          />
        </label>
      ))}
      {leave.isError && <Refused error={leave.error} />}
      <Button
        weight="strong"
        size="touch"
        disabled={leave.isPending || off.some((product) => !(reasons[product.product] ?? "").trim())}
        onClick={() => leave.mutate({ lorry: lorry.lorry, reasons }, { onSuccess: onLeft })}
      >
        It has left
      </Button>
    </Panel>
  );
}
