/** The evening's account: what was planned and made hour by hour, each missing pack with its cause, and how well. */
import { Link } from "react-router";
import { fileAddress, type Schemas } from "../../api/client";
import { useAccount } from "../../api/queries";
import { digits, duration, whole } from "../../app/format";
import { buttonLook, Figure, Header, Loading, Panel, Refused } from "../../ui/parts";
import { useAddress } from "../../ui/useAddress";
import { LineOfPage } from "../LineOfPage";
import { useLine, useWindowView } from "../planningWindow";

type View = Schemas["LineAccount"];
type Account = View["account"];
type Loss = Account["pareto"][number];

const share = (value: number | null) => (value == null ? "none" : `${digits(100 * value, 1)} %`);

/** A loss by its cause, as people say it. */
function lossWords(loss: Loss, stations: Record<string, string>): string {
  if (loss.kind === "slower") return "slower or later than planned";
  if (loss.kind === "made up") return "made up";
  const told = loss.cause ? ` (${loss.cause})` : "";
  return `${stations[loss.station ?? ""] ?? loss.station} stood ${duration(loss.minutes)}${told}`;
}

export function AccountView() {
  const line = useLine()?.id ?? "";
  const { clock } = useWindowView();
  const [search, change] = useAddress();
  const [since, until] = [search.get("since") ?? undefined, search.get("until") ?? undefined];
  const found = useAccount(line, since, until);
  const query = new URLSearchParams({ line, ...(since && { since }), ...(until && { until }) });
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
        figures={found.data && <Figures account={found.data.account} />}
        actions={
          <>
            {field("since", "from", since ?? (found.data ? clock.typed(clock.minuteAt(found.data.since)) : ""))}
            {field("until", "to", until ?? (found.data ? clock.typed(clock.minuteAt(found.data.until)) : ""))}
            <LineOfPage line={line} />
            <a className={buttonLook()} href={fileAddress(`/api/account/account.pdf?${query}`)}>
              PDF
            </a>
            <a className={buttonLook()} href={fileAddress(`/api/account/account.xlsx?${query}`)}>
              Workbook
            </a>
          </>
        }
      />
      {found.isError && (
        <div className="m-5">
          <Refused error={found.error} again={() => found.refetch()} />
        </div>
      )}
      {found.isPending && <Loading what="the account" />}
      {found.data && (
        <div className="grid grid-cols-[minmax(0,1fr)] content-start gap-2 px-2 pb-2 lg:grid-cols-[3fr_2fr]">
          <Hours view={found.data} />
          <div className="grid content-start gap-2">
            <Causes view={found.data} />
            <HowWell account={found.data.account} />
          </div>
        </div>
      )}
    </>
  );
}

function Figures({ account }: { account: Account }) {
  const missing = account.planned - account.made;
  return (
    <>
      <Figure value={`${whole(account.made)} of ${whole(account.planned)}`} label="packs" />
      <Figure
        value={whole(Math.abs(missing))}
        label={missing < 0 ? "more than planned" : "missing"}
        wrong={missing > 0}
      />
      <Figure value={share(account.figures.oee)} label="OEE" />
    </>
  );
}

function Hours({ view }: { view: View }) {
  const { clock } = useWindowView();
  const { account, stations } = view;
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
              <td className="py-1.5 font-semibold">{clock.time(hour.from_min)}</td>
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
                  <Link to="/stops" className="underline">
                    {lossWords(loss, view.stations)}
                  </Link>
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

/** Availability, effectiveness and quality, each with its arithmetic. */
function HowWell({ account }: { account: Account }) {
  const { figures } = account;
  const rows: [string, number | null, string][] = [
    [
      "Availability",
      figures.availability,
      `${duration(figures.production_min)} without a stop, of ${duration(figures.busy_min)} planned`,
    ],
    [
      "Effectiveness",
      figures.effectiveness,
      `${whole(figures.produced)} packs at the planned ${digits(figures.planned ? figures.busy_min / figures.planned : 0, 3)} min each, in ${duration(figures.production_min)}`,
    ],
    ["Quality", figures.quality, `${whole(figures.good)} good, of ${whole(figures.produced)} made`],
    ["OEE", figures.oee, "the product of the three (ISO 22400-2)"],
  ];
  return (
    <Panel label="How well" className="p-4">
      <h2 className="mb-1 font-bold">How well</h2>
      <dl>
        {rows.map(([name, value, how]) => (
          <div key={name} className="border-rule border-b py-1.5 text-sm">
            <dt className="flex justify-between">
              {name} <b>{share(value)}</b>
            </dt>
            <dd className="text-ink-2 text-xs">{how}</dd>
          </div>
        ))}
      </dl>
    </Panel>
  );
}
