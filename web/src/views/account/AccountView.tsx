/** The evening's account: what was planned and made, each missing pack with its cause, and the records beneath. */
import type { ReactNode } from "react";
import { fileAddress } from "../../api/client";
import { type AccountBy, useAccount, useAccountTable } from "../../api/queries";
import { digits, duration, whole } from "../../app/format";
import { useUnits } from "../../app/units";
import { Choice } from "../../ui/Choice";
import { ALL_LINES, LinePick } from "../../ui/LinePick";
import { Pick } from "../../ui/Pick";
import { buttonLook, Figure, Header, Loading, Panel, Refused } from "../../ui/parts";
import { useAddress } from "../../ui/useAddress";
import { useLine, useWindowView } from "../planningWindow";
import { AccountTable } from "./AccountTable";
import { GivenBeneath, OffBeneath, OvensBeneath, RunsBeneath, StoodBeneath } from "./Beneath";
import { Handover } from "./Handover";
import { SPANS, type SpanName, spanName, spanOf } from "./spans";
import { costWords, givenWords, lossWords, share, type Tally, type View } from "./words";

const HOUR = "hour";

const BY = [HOUR, "shift", "day", "week", "line", "product"] as const;

export function AccountView() {
  const own = useLine()?.id ?? "";
  const { clock } = useWindowView();
  const [search, change] = useAddress();
  const [since, until] = [search.get("since") ?? undefined, search.get("until") ?? undefined];
  const isAll = search.get("line") === ALL_LINES;
  const wanted = BY.find((one) => one === search.get("by")) ?? HOUR;
  const by = isAll && wanted === HOUR ? "line" : wanted;
  const isTable = by !== HOUR;
  const line = isAll ? ALL_LINES : own;
  const found = useAccount(isTable ? "" : own, since, until);
  const table = useAccountTable(isTable ? (by as AccountBy) : undefined, isAll ? undefined : own, since, until);
  const shown = isTable ? table : found;
  const query = new URLSearchParams({
    ...(!isAll && { line: own }),
    ...(isTable && { by }),
    ...(since && { since }),
    ...(until && { until }),
  });
  const goTo = (name: SpanName) => {
    const span =
      name === "own" && shown.data
        ? { since: typed(shown.data.since), until: typed(shown.data.until) }
        : spanOf(name, clock);
    change((parameters) => {
      for (const key of ["since", "until"] as const) {
        const value = span[key];
        if (value) parameters.set(key, value);
        else parameters.delete(key);
      }
    });
  };
  const typed = (moment: string) => clock.typed(clock.minuteAt(moment));
  const field = (name: "since" | "until", words: string, value: string) => (
    <label className="text-ink-2 text-xs">
      {words}
      <input
        type="datetime-local"
        step={3_600}
        value={value}
        onChange={(event) => change((parameters) => parameters.set(name, event.target.value))}
        className="ml-1 rounded-lg border border-trail/60 bg-paper px-2 py-1.5 text-ink text-sm"
      />
    </label>
  );
  return (
    <>
      <Header
        title="Account"
        sub="what was planned and made, and one cause for every pack that is missing"
        figures={shown.data && <Figures tally={"total" in shown.data ? shown.data.total : shown.data.tally} />}
        actions={
          <>
            <LinePick all line={line} onChange={(id) => change((parameters) => parameters.set("line", id))} />
            {!isTable && (
              <a className={buttonLook()} href={fileAddress(`/api/account/account.pdf?${query}`)}>
                PDF
              </a>
            )}
            <a
              className={buttonLook()}
              href={fileAddress(`/api/account/${isTable ? "table" : "account"}.xlsx?${query}`)}
            >
              Workbook
            </a>
          </>
        }
      />
      <div className="no-print flex flex-wrap items-center gap-x-4 gap-y-2 px-5 pb-2">
        <Pick
          label="Which hours"
          value={spanName({ since, until }, clock)}
          options={SPANS}
          onChange={(name) => goTo(name as SpanName)}
        />
        {field("since", "from", since ?? (shown.data ? typed(shown.data.since) : ""))}
        {field("until", "to", until ?? (shown.data ? typed(shown.data.until) : ""))}
        <Choice
          label="By"
          value={by}
          options={BY.filter((one) => !(isAll && one === HOUR)).map((one) => ({ value: one, label: `by ${one}` }))}
          onChange={(one) => change((parameters) => parameters.set("by", one))}
        />
      </div>
      {shown.isError && (
        <div className="m-5">
          <Refused error={shown.error} again={() => shown.refetch()} />
        </div>
      )}
      {shown.isPending && <Loading what="the account" />}
      {isTable && table.data && <AccountTable table={table.data} line={line} />}
      {!isTable && found.data && (
        <div className="grid grid-cols-[minmax(0,1fr)] content-start gap-2 px-2 pb-2 lg:grid-cols-[3fr_2fr]">
          <div className="grid content-start gap-2">
            <Hours view={found.data} />
            <RunsBeneath view={found.data} />
            <StoodBeneath view={found.data} />
          </div>
          <div className="grid content-start gap-2">
            <Causes view={found.data} />
            <HowWell view={found.data} />
            <Handover view={found.data} />
            <OffBeneath view={found.data} />
            <GivenBeneath view={found.data} />
            <OvensBeneath view={found.data} />
          </div>
        </div>
      )}
    </>
  );
}

function Figures({ tally }: { tally: Tally }) {
  const { figures } = tally;
  const missing = figures.planned - figures.produced;
  return (
    <>
      <Figure value={`${whole(figures.produced)} of ${whole(figures.planned)}`} label="packs" />
      <Figure
        value={whole(Math.abs(missing))}
        label={missing < 0 ? "more than planned" : "missing"}
        wrong={missing > 0}
      />
      <Figure value={share(figures.oee)} label="OEE" />
    </>
  );
}

const HOURS_OF_A_DAY = 24;

function Hours({ view }: { view: View }) {
  const { clock } = useWindowView();
  const { account, stations } = view;
  const named = account.hours.length > HOURS_OF_A_DAY ? clock.spoken : clock.time;
  const most = Math.max(1, ...account.hours.map((hour) => Math.max(hour.planned, hour.made)));
  return (
    <Panel label="By the hour" className="self-start p-4">
      <h2 className="mb-2 font-bold">By the hour</h2>
      <table className="w-full text-sm">
        <thead>
          <tr className="text-left text-muted text-xs">
            <th className="py-1 font-semibold">Hour</th>
            <th className="py-1 font-semibold">Made, and planned</th>
            <th className="py-1 text-right font-semibold">Packs</th>
            <th className="py-1 pl-4 font-semibold">Why</th>
          </tr>
        </thead>
        <tbody>
          {account.hours.map((hour) => (
            <tr key={hour.from_min} className="border-rule border-t align-top">
              <td className="whitespace-nowrap py-1.5 font-semibold">{named(hour.from_min)}</td>
              <td className="w-2/5 py-2">
                <div aria-hidden="true" className="relative h-4">
                  <div
                    className="absolute inset-y-0 left-0 rounded-sm bg-steam"
                    style={{ width: `${(100 * hour.made) / most}%` }}
                  />
                  <div
                    className="absolute inset-y-0 left-0 rounded-sm border border-ink-2"
                    style={{ width: `${(100 * hour.planned) / most}%` }}
                  />
                </div>
              </td>
              <td className="whitespace-nowrap py-1.5 text-right">
                <b>{whole(hour.made)}</b> of {whole(hour.planned)}
              </td>
              <td className="py-1.5 pl-4">
                {hour.losses.map((loss) => (
                  <span key={`${loss.kind} ${loss.station} ${loss.minutes}`} className="block text-xs">
                    <b className={loss.packs > 0 ? "text-ember" : "text-steam"}>{whole(Math.abs(loss.packs))}</b>{" "}
                    {lossWords(loss, stations)}
                  </span>
                ))}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </Panel>
  );
}

/** What cost most packs, the largest first. */
function Causes({ view }: { view: View }) {
  const { pareto } = view.account;
  const lost = pareto.filter((loss) => loss.packs > 0);
  const most = Math.max(1, ...lost.map((loss) => loss.packs));
  return (
    <Panel label="By cause" className="p-4">
      <h2 className="mb-2 font-bold">By cause</h2>
      {lost.length === 0 && <p className="text-ink-2 text-sm">No pack is missing.</p>}
      <ol className="text-sm">
        {pareto.map((loss) => (
          <li key={`${loss.kind} ${loss.station} ${loss.cause}`} className="border-rule border-b py-1.5">
            <span className="flex justify-between gap-3">
              <span>
                {loss.kind === "stood" ? (
                  <a href="#stood" className="underline">
                    {lossWords(loss, view.stations)}
                  </a>
                ) : (
                  lossWords(loss, view.stations)
                )}
              </span>
              <b>{whole(loss.packs)}</b>
            </span>
            {loss.packs > 0 && (
              <span
                aria-hidden="true"
                className="mt-0.5 block h-1.5 rounded-sm bg-ember"
                style={{ width: `${(100 * loss.packs) / most}%` }}
              />
            )}
          </li>
        ))}
      </ol>
    </Panel>
  );
}

/** How well it went, each figure with its arithmetic, and leading to the records beneath it. */
function HowWell({ view }: { view: View }) {
  const units = useUnits();
  const { tally, currency } = view;
  const { figures } = tally;
  const rows: [string, string, ReactNode, string][] = [
    [
      "Availability",
      share(figures.availability),
      `${duration(figures.production_min)} without a stop, of ${duration(figures.busy_min)} planned`,
      "stood",
    ],
    [
      "Effectiveness",
      share(figures.effectiveness),
      `${whole(figures.produced)} packs at the planned ${digits(figures.planned ? figures.busy_min / figures.planned : 0, 3)} min each, in ${duration(figures.production_min)}`,
      "runs",
    ],
    ["Quality", share(figures.quality), `${whole(figures.good)} good, of ${whole(figures.produced)} made`, "off"],
    ["OEE", share(figures.oee), "the product of the three (ISO 22400-2)", "runs"],
    ["Adherence", share(tally.adherence), "of what was planned of each product, how much was made", "runs"],
    [
      "Pulled pieces",
      whole(tally.pulled),
      `taken off the line by hand, beside ${whole(tally.scrapped)} packs scrapped`,
      "off",
    ],
    [
      "Giveaway",
      givenWords(tally.given_kg, units),
      `dough in pieces that are not as they should be${costWords(tally.given_money, currency)}`,
      "given",
    ],
    ["Oven idle", duration(tally.oven_empty_min), "ovens that burned without product", "ovens"],
  ];
  return (
    <Panel label="How well" className="p-4">
      <h2 className="mb-1 font-bold">How well</h2>
      <dl>
        {rows.map(([name, value, how, beneath]) => (
          <div key={name} className="border-rule border-b py-1.5 text-sm">
            <dt className="flex justify-between">
              <a href={`#${beneath}`} className="underline">
                {name}
              </a>
              <b>{value}</b>
            </dt>
            <dd className="text-ink-2 text-xs">{how}</dd>
          </div>
        ))}
      </dl>
    </Panel>
  );
}
