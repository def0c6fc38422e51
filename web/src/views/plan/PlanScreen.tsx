/** The plan: a version of it, one line's ribbons or all lines' at once, and what one can do to it. */

import { useEffect, useState } from "react";
import { Link, useLocation, useNavigate, useParams, useSearchParams } from "react-router";
import { mixedFor, type PlanningWindow, pastWindow, type Refusal, type VersionView } from "../../api/client";
import { useChangeVersion, useVersion } from "../../api/queries";
import { duration, oneDecimal, whole } from "../../app/format";
import { ALL_LINES, LinePick } from "../../ui/LinePick";
import { Button, Empty, Figure, Header, Loading, Notice, Refused } from "../../ui/parts";
import { Said } from "../../ui/Said";
import { Unhurried } from "../../ui/Unhurried";
import { useLine, useWindowView } from "../planningWindow";
import { WetAhead } from "../WetAhead";
import { AllLines } from "./AllLines";
import { BlocksDialog } from "./BlocksDialog";
import { LineChart } from "./LineChart";
import type { Panels } from "./panels";
import { SearchDialog, useSearchUnderWay } from "./Search";
import { VersionStrip } from "./VersionStrip";

export function PlanScreen() {
  const { number } = useParams();
  const [search] = useSearchParams();
  const chosen = useLine()?.id ?? "";
  const all = search.get("line") === ALL_LINES;
  const { key } = useLocation();
  const [held, hold] = useState<{ at: string; number: number }>();
  const version = useVersion(
    number !== undefined ? Number(number) : held?.at === key ? held.number : undefined,
    all ? undefined : chosen,
  );
  const [asking, setAsking] = useState(false);
  const running = useSearchUnderWay();
  const navigate = useNavigate();
  const line = all ? ALL_LINES : chosen;
  const shown = version.data?.note.number;
  useEffect(() => {
    if (number === undefined && shown !== undefined && !version.isFetching) hold({ at: key, number: shown });
  }, [key, number, shown, version.isFetching]);

  const dialogs = (
    <>
      <SearchDialog
        open={asking}
        onOpenChange={setAsking}
        line={all ? undefined : chosen}
        weights={version.data?.weights}
        version={version.data?.note.number}
      />
    </>
  );
  if (version.isPending) return <Loading what="the plan" />;
  if (version.isError) {
    if ((version.error as Refusal).status !== 404 || number !== undefined)
      return (
        <div className="m-5">
          <Refused error={version.error} again={() => version.refetch()} />
        </div>
      );
    return (
      <>
        {dialogs}
        <Empty title="No plan yet">
          <p className="mb-4">The orders are there. Rundgang can plan the day from them.</p>
          <span className="inline-flex gap-2">
            <LinePick line={line} onChange={(id) => navigate(`/plan?line=${id}`)} all />
            <Button weight="strong" onClick={() => setAsking(true)} disabled={running !== undefined}>
              Plan the day
            </Button>
          </span>
        </Empty>
      </>
    );
  }
  return (
    <Unhurried meanwhile={<Loading what="the plan" />}>
      <PlanHeader version={version.data} line={line} onSearch={() => setAsking(true)} busy={running !== undefined} />
      {dialogs}
      <Shown key={line} version={version.data} line={line} onSearch={() => setAsking(true)} />
    </Unhurried>
  );
}

type HeaderProps = { version: VersionView; line: string; onSearch: () => void; busy: boolean };

function PlanHeader({ version, line, onSearch, busy }: HeaderProps) {
  const { day } = useWindowView();
  const navigate = useNavigate();
  const { number } = useParams();
  const [blocks, setBlocks] = useState(false);
  const shown = version.plans;
  const score = line === ALL_LINES ? version.score : (shown[0]?.plan.score ?? version.score);
  const runs = shown.flatMap((view) => view.plan.runs);
  const batches = runs.reduce((sum, run) => sum + mixedFor(run).length, 0);
  const at = number === undefined ? "/plan" : `/plan/${number}`;
  return (
    <>
      <Header
        title={line === ALL_LINES ? "All lines" : (day.lines.find((found) => found.id === line)?.name ?? line)}
        sub={
          `${whole(version.cost)} points for the plant` +
          (version.how_good ? `, ${version.how_good}` : "") +
          (line === ALL_LINES && score.crew_peak > 0 ? `; ${whole(score.crew_peak)} people at once` : "")
        }
        figures={
          <>
            <Figure value={whole(version.packs_short)} label="packs short" wrong={version.packs_short > 0} />
            {score.late_pack_hours > 0 && (
              <Figure value={oneDecimal(score.late_pack_hours)} label="pack hours late" wrong />
            )}
            {score.packs_stale > 0 && <Figure value={whole(score.packs_stale)} label="packs wasted" wrong />}
            <Figure value={duration(score.changeover_min)} label="divider idle" />
            <Figure value={duration(score.oven_empty_min)} label="oven idle" />
            {score.surplus_packs > 0 && <Figure value={`+${whole(score.surplus_packs)}`} label="packs to stock" />}
            <Figure value={`${runs.length} / ${batches}`} label="runs / batches" />
          </>
        }
        actions={
          <>
            <LinePick line={line} onChange={(id) => navigate(`${at}?line=${id}`)} all />
            {pastWindow === undefined && (
              <>
                <Button onClick={() => setBlocks(true)}>Downtime</Button>
                <Button weight="strong" onClick={onSearch} disabled={busy}>
                  {busy ? "Searching …" : "Search"}
                </Button>
              </>
            )}
          </>
        }
      />
      <BlocksDialog
        open={blocks}
        onOpenChange={setBlocks}
        line={line === ALL_LINES ? undefined : line}
        version={version.note.number}
      />
    </>
  );
}

function Shown({ version, line, onSearch }: { version: VersionView; line: string; onSearch: () => void }) {
  const [panel, setPanel] = useState<Panels>("lorries");
  const view = version.plans[0];
  return (
    <>
      <VersionStrip version={version} panel={panel} onPanel={setPanel} line={line} />
      <WetAhead />
      <Notices version={version} onSearch={onSearch} line={line} />
      {line === ALL_LINES ? (
        <AllLines version={version} panel={panel} />
      ) : view && view.plan.runs.length > 0 ? (
        <LineChart
          key={`${view.plan.line}`}
          version={version}
          view={view}
          panel={panel}
          onPanel={setPanel}
          onSearch={onSearch}
        />
      ) : (
        <Empty title="Nothing to make">There are no orders for this line.</Empty>
      )}
    </>
  );
}

/** What of it has changed since, as far as the numbers say. */
function outdated({ note }: VersionView, day: PlanningWindow): string {
  const books =
    note.book === day.book.number ? "" : `It is for order book ${note.book}; the newest is ${day.book.number}.`;
  const plants =
    note.library === day.library
      ? ""
      : `It is for version ${note.library} of the plant's data; the newest is ${day.library}.`;
  return `${books} ${plants}`.trim() || "Stock or downtime has changed.";
}

/** A version that has come since one looks at this one: said, never shown in its place without being asked. */
function Newer({ version, line }: { version: VersionView; line: string }) {
  const { number } = version.note;
  const [first, setFirst] = useState({ number, newest: version.newest });
  if (first.number !== number) setFirst({ number, newest: version.newest });
  if (version.newest <= first.newest) return null;
  return (
    <Notice title={`Version ${version.newest} has come since you opened version ${number}.`}>
      <Link to={`/plan?line=${line}`} className="font-semibold underline">
        Show version {version.newest}
      </Link>
    </Notice>
  );
}

function Notices({ version, line, onSearch }: { version: VersionView; line: string; onSearch: () => void }) {
  const { day } = useWindowView();
  const change = useChangeVersion();
  const navigate = useNavigate();
  const faults = [...version.violations, ...version.plans.flatMap((view) => view.violations)];
  const fit = () =>
    change.mutate(
      {
        version: version.note.number,
        change: { kind: "fit", line: line === ALL_LINES ? (day.lines[0]?.id ?? "") : line },
      },
      { onSuccess: (made) => navigate(`/plan/${made.version}?line=${line}`) },
    );
  return (
    <div className="mx-2 grid gap-2 empty:hidden">
      <Newer version={version} line={line} />
      {version.stale && (
        <Notice
          tone="wrong"
          title="The orders, stock, downtime or the plant's data have changed since this plan was made."
        >
          {outdated(version, day)}{" "}
          <button type="button" className="font-semibold underline" onClick={fit} disabled={change.isPending}>
            Fit this plan, moving as little as possible
          </button>{" "}
          or{" "}
          <button type="button" className="font-semibold underline" onClick={onSearch}>
            search anew
          </button>
        </Notice>
      )}
      {change.isError && <Refused error={change.error} />}
      {faults.length > 0 && (
        <Notice tone="wrong" title="The check finds this plan cannot be run as it stands.">
          <ul className="list-disc pl-5">
            {faults.map((violation) => (
              <li key={`${violation.run}${violation.station}${violation.text}`}>
                {violation.run} {violation.station} <Said text={violation.text} />
              </li>
            ))}
          </ul>
        </Notice>
      )}
    </div>
  );
}
