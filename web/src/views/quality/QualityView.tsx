/** Quality: what is measured, drawn product by product; whether it is steady, and what to do at the divider. */
import type { Schemas } from "../../api/client";
import { useQuality } from "../../api/queries";
import { plural } from "../../app/format";
import { Empty, Figure, Header, Loading, Refused } from "../../ui/parts";
import { LineOfPage } from "../LineOfPage";
import { useLine } from "../planningWindow";
import { ChartCard } from "./ChartCard";

type Line = Schemas["LineQuality"];

export function QualityView() {
  const line = useLine()?.id;
  const found = useQuality(line);
  return (
    <>
      <Header
        title="Quality"
        sub="what is measured on the walk and by the scales, against what chance alone would make of it"
        figures={
          found.data && (
            <Figure
              value={found.data.broken}
              wrong={found.data.broken > 0}
              label={found.data.broken === 1 ? "chart is not steady" : "charts are not steady"}
            />
          )
        }
        actions={<LineOfPage line={line ?? ""} />}
      />
      {found.isError && (
        <div className="m-5">
          <Refused error={found.error} again={() => found.refetch()} />
        </div>
      )}
      {found.isPending && <Loading what="the charts" />}
      {found.data && <Stations quality={found.data} />}
    </>
  );
}

function Stations({ quality }: { quality: Line }) {
  const { stations } = quality;
  if (stations.length === 0)
    return (
      <Empty title="Nothing has been measured on this line yet">
        Charts come of the weights and temperatures that are entered on the walk, and of the scale behind the divider.
      </Empty>
    );
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-4 px-2 pb-2">
      {stations.map((station) => (
        <section key={station.station} aria-label={station.name}>
          <h2 className="px-3 pb-1 font-bold">
            {station.name}{" "}
            <span className="font-normal text-ink-2 text-sm">{plural(station.charts.length, "chart")}</span>
          </h2>
          <div className="grid grid-cols-[minmax(0,1fr)] gap-2 xl:grid-cols-2">
            {station.charts.map((chart) => (
              <ChartCard key={chart.key} chart={chart} currency={quality.currency} />
            ))}
          </div>
        </section>
      ))}
    </div>
  );
}
