/** Each stop: what was advised, what was done, and what it cost. */
import { Link } from "react-router";
import { useTroubles } from "../../api/queries";
import { duration } from "../../app/format";
import { Empty, Header, Loading, Older, Panel, Refused } from "../../ui/parts";
import { useWindowView } from "../planningWindow";
import { Events } from "./StopView";

export function StopsView() {
  const { clock } = useWindowView();
  const found = useTroubles();
  if (found.isError)
    return (
      <div className="m-5">
        <Refused error={found.error} again={() => found.refetch()} />
      </div>
    );
  if (!found.data) return <Loading what="the stops" />;
  return (
    <>
      <Header title="Stops" sub="each with what was advised, what was done and what it cost" />
      {found.data.length === 0 && (
        <Empty title="No stop yet">A stop is told on the page of its line, or on the walk.</Empty>
      )}
      <div className="grid gap-2 px-2 pb-2">
        {found.data.map((stop) => (
          <Panel key={stop.number} label={`Stop ${stop.number}`} className="p-4">
            <h2 className="font-bold">
              <Link to={`/stop/${stop.number}`} className="underline">
                {stop.name}, {stop.line_name}
              </Link>
              : {clock.date(clock.minuteAt(stop.began_at))} {clock.time(clock.minuteAt(stop.began_at))},{" "}
              {stop.lasted_min == null ? (
                <span className="text-ember">stands</span>
              ) : (
                `stood ${duration(stop.lasted_min)}`
              )}
            </h2>
            <Events stop={stop} />
          </Panel>
        ))}
        <Older of={found} />
      </div>
    </>
  );
}
