/** A search: asked for with its prices, watched while it runs, stopped and kept. */
import { useState } from "react";
import { Link } from "react-router";
import type { Search, Weights } from "../../api/client";
import { dismissEnded, useHappenings } from "../../api/events";
import { stopSearch, useAskSearch, useSearches } from "../../api/queries";
import { whole } from "../../app/format";
import { Choice } from "../../ui/Choice";
import { Dialog } from "../../ui/Dialog";
import { Button, Heading, Notice, Refused } from "../../ui/parts";

/** The search that runs, if one does; of several the one asked for last. */
export const useSearchUnderWay = () => useSearches().data?.at(-1);

/** How a search is going, on every page; and, when it has ended, where its plan is. */
export function SearchStrip() {
  const state = useSearchUnderWay();
  const { ended } = useHappenings();
  return (
    <div role="status" aria-label="Search" className="no-print mx-2 mt-2 empty:hidden">
      {state ? <Going state={state} /> : ended && <Ended ended={ended} />}
    </div>
  );
}

function Ended({ ended }: { ended: Search }) {
  const found = ended.version != null;
  const failed = ended.state === "failed";
  return (
    <Notice
      tone={failed ? "wrong" : "note"}
      title={found ? `The search has ended: version ${ended.version}, ${whole(ended.cost ?? 0)} points` : ended.text}
    >
      {ended.how_near && found && <span className="mr-4">{ended.how_near}</span>}
      {found && (
        <Link to={`/plan/${ended.version}`} className="mr-4 font-semibold underline" onClick={dismissEnded}>
          Show it
        </Link>
      )}
      <button type="button" className="underline" onClick={dismissEnded}>
        Close
      </button>
    </Notice>
  );
}

/** Seconds, orders tried, the best so far and how near that is to the best possible. */
function Going({ state }: { state: Search }) {
  const share = state.request.seconds ? Math.min(1, state.elapsed_s / state.request.seconds) : 0;
  return (
    <div className="rounded-lg border border-steam/50 bg-paper px-4 py-2 text-sm">
      <div className="flex flex-wrap items-center gap-x-5 gap-y-1">
        <span className="font-semibold text-steam">
          {state.state === "waiting"
            ? "Waiting for a worker"
            : state.workers > 1
              ? `Searching, ${state.workers} workers`
              : "Searching"}
        </span>
        <span>
          {whole(state.elapsed_s)} of {whole(state.request.seconds)} s
        </span>
        <span>{whole(state.evaluated)} orders tried</span>
        {state.cost != null && <span>best so far {whole(state.cost)} points</span>}
        {state.how_near && <span className="text-ink-2">{state.how_near}</span>}
        <Button size="small" className="ml-auto" onClick={() => stopSearch(state.job)}>
          Stop and keep the best
        </Button>
      </div>
      <div
        role="progressbar"
        aria-label="Time used"
        aria-valuenow={Math.round(share * 100)}
        aria-valuemin={0}
        aria-valuemax={100}
        className="mt-1.5 h-1 rounded bg-rule"
      >
        <div className="h-1 rounded bg-steam" style={{ width: `${share * 100}%` }} />
      </div>
    </div>
  );
}

const SECONDS = ["10", "30", "60", "300"] as const;
type Seconds = (typeof SECONDS)[number];

const PRICES: [keyof Weights, string][] = [
  ["packs_short", "a pack that misses its lorry"],
  ["late_pack_hours", "an hour that one pack is late"],
  ["packs_stale", "a pack wasted, past its shelf life"],
  ["changeover_min", "a minute the divider waits at a change"],
  ["oven_empty_min", "a minute an oven stands hot and empty"],
  ["surplus_packs", "a pack nobody ordered"],
  ["filling_left_kg", "a kilogram of filling left over"],
  ["crew_peak", "one more person at the peak"],
  ["moved_min", "a minute an order item moves against the published plan"],
  ["last_pack_min", "a minute until a line's last pack"],
];

type DialogProps = {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  line: string | undefined;
  weights: Weights | undefined;
  version: number | undefined;
};

export function SearchDialog(props: DialogProps) {
  return (
    <Dialog open={props.open} onOpenChange={props.onOpenChange} title="Search for a better plan">
      <SearchForm key={props.version} {...props} />
    </Dialog>
  );
}

function SearchForm({ onOpenChange, line, weights, version }: DialogProps) {
  const ask = useAskSearch();
  const [seconds, setSeconds] = useState<Seconds>("10");
  const [which, setWhich] = useState<"all" | "line">("all");
  const [from, setFrom] = useState<"rule" | "version">("version");
  const [prices, setPrices] = useState<Partial<Record<keyof Weights, string>>>({});
  const priced = Object.fromEntries(
    PRICES.map(([name]) => [name, Number(prices[name] ?? weights?.[name] ?? Number.NaN)]),
  );
  const start = () => {
    const known = Object.fromEntries(Object.entries(priced).filter(([, value]) => Number.isFinite(value)));
    ask.mutate(
      {
        seconds: Number(seconds),
        seed: 0,
        lines: which === "line" && line ? [line] : [],
        start: version !== undefined && (from === "version" || which === "line") ? version : null,
        weights: known as Weights,
      },
      {
        onSuccess: () => {
          dismissEnded();
          onOpenChange(false);
        },
      },
    );
  };
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        start();
      }}
    >
      <div className="flex flex-wrap gap-3">
        <Choice
          label="How long"
          value={seconds}
          onChange={setSeconds}
          options={SECONDS.map((value) => ({ value, label: value === "300" ? "5 min" : `${value} s` }))}
        />
        {line && (
          <Choice
            label="Which lines"
            value={which}
            onChange={setWhich}
            options={[
              { value: "all", label: "All lines" },
              { value: "line", label: "This line" },
            ]}
          />
        )}
        {version !== undefined && (
          <Choice
            label="From where"
            value={from}
            onChange={setFrom}
            options={[
              { value: "version", label: `On from version ${version}` },
              { value: "rule", label: "From scratch" },
            ]}
          />
        )}
      </div>
      <Heading>What counts how much, in points</Heading>
      <div className="grid gap-1">
        {PRICES.map(([name, words]) => (
          <label key={name} className="flex items-center justify-between gap-3 text-sm">
            {words}
            <input
              type="number"
              min={0}
              step="any"
              className="w-24 rounded border border-trail/60 bg-ground px-2 py-1 text-right"
              value={prices[name] ?? String(weights?.[name] ?? "")}
              placeholder="as usual"
              onChange={(event) => setPrices({ ...prices, [name]: event.target.value })}
            />
          </label>
        ))}
      </div>
      {ask.isError && <Refused error={ask.error} />}
      <div className="mt-4 flex justify-end">
        <Button type="submit" weight="strong" disabled={ask.isPending}>
          Start the search
        </Button>
      </div>
    </form>
  );
}
