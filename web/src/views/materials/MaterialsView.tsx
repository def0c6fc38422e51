/** What the plans draw from the stores, hour by hour: what runs out, when, and for which batch. */
import { scaleLinear } from "d3-scale";
import { Link, useNavigate, useParams } from "react-router";
import { pastWindow, type Supply } from "../../api/client";
import { useMaterials, useTakeStock } from "../../api/queries";
import { plural, whole } from "../../app/format";
import { useUnits } from "../../app/units";
import { Empty, Figure, Header, Loading, Notice, Panel, Refused } from "../../ui/parts";
import { Unhurried } from "../../ui/Unhurried";
import { useKeys } from "../../ui/useKeys";
import { useStep } from "../../ui/useStep";
import { useWidth } from "../../ui/useWidth";
import { useWindowView } from "../planningWindow";
import { StockEntry } from "./StockEntry";
import { StockFile } from "./StockFile";

/** Made by the plant itself. */
const ICE = "ice";

export function MaterialsView() {
  const materials = useMaterials();
  const { item } = useParams();
  if (materials.isError)
    return (
      <div className="m-5">
        <Refused error={materials.error} again={() => materials.refetch()} />
      </div>
    );
  if (!materials.data) return <Loading what="the stores" />;
  const shown = materials.data.find((found) => found.item === (item ?? materials.data[0]?.item));
  if (materials.data.length === 0)
    return <Empty title="Nothing is drawn">The draw comes with the plans; there is none yet.</Empty>;
  return (
    <Unhurried meanwhile={<Loading what="the stores" />}>
      <Stores supplies={materials.data} shown={shown} />
    </Unhurried>
  );
}

function Stores({ supplies, shown }: { supplies: Supply[]; shown: Supply | undefined }) {
  const navigate = useNavigate();
  const take = useTakeStock();
  const out = supplies.filter((found) => found.runs_out);
  const step = useStep(supplies, shown, (next) => navigate(`/materials/${next.item}`, { replace: true }));
  useKeys({ j: () => step(1), k: () => step(-1) });
  return (
    <>
      <Header
        title="Materials"
        sub="what all plans draw, against stock, deliveries and the ice machine"
        figures={
          <>
            <Figure value={String(out.length)} label="run out" wrong={out.length > 0} />
            <Figure value={String(supplies.length)} label="items drawn" />
          </>
        }
        actions={<StockFile take={take} />}
      />
      <div className="mx-2 mb-2 empty:hidden">
        {take.isError && <Refused error={take.error} />}
        {take.data && <Notice tone="good" title={`Taken. ${take.data.origin}`} />}
      </div>
      <div className="grid flex-1 grid-cols-[minmax(0,1fr)] content-start gap-2 px-2 pb-2 lg:grid-cols-[27rem_minmax(0,1fr)]">
        <Panel label="Items" className="self-start p-3">
          <Items supplies={supplies} shown={shown} />
        </Panel>
        {shown ? (
          <Item key={shown.item} supply={shown} />
        ) : (
          <Empty title="No such item">Nothing of that name is drawn. Choose one from the list.</Empty>
        )}
      </div>
    </>
  );
}

function useAmount(unit: string) {
  const units = useUnits();
  return unit === "kg"
    ? {
        shown: (kg: number) => whole(Number(units.shown(kg, "dough mass").replaceAll(",", ""))),
        name: units.name("dough mass"),
      }
    : { shown: whole, name: "pieces" };
}

function Items({ supplies, shown }: { supplies: Supply[]; shown: Supply | undefined }) {
  const { clock } = useWindowView();
  return (
    <table className="w-full text-sm">
      <thead>
        <tr className="border-rule border-b text-left text-muted text-xs">
          <th className="py-1 font-semibold">Item</th>
          <th className="py-1 text-right font-semibold">drawn</th>
          <th className="py-1 text-right font-semibold">enough until</th>
        </tr>
      </thead>
      <tbody>
        {supplies.map((supply) => (
          <tr key={supply.item} className={`border-rule border-b ${supply === shown ? "bg-crumb" : ""}`}>
            <td className="py-1">
              <Link
                to={`/materials/${supply.item}`}
                replace
                aria-current={supply === shown ? "true" : undefined}
                className="block font-semibold hover:underline"
              >
                {supply.name}
              </Link>
            </td>
            <Drawn supply={supply} />
            <td className={`py-1 text-right ${supply.runs_out ? "font-semibold text-ember" : "text-ink-2"}`}>
              {supply.runs_out
                ? `${clock.moment(supply.runs_out.at_min)}`
                : supply.on_hand == null
                  ? "stock not known"
                  : "the end"}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Drawn({ supply }: { supply: Supply }) {
  const amount = useAmount(supply.unit);
  return (
    <td className="py-1 text-right">
      {amount.shown(supply.used)} <span className="text-ink-2 text-xs">{amount.name}</span>
    </td>
  );
}

function Item({ supply }: { supply: Supply }) {
  const { day, clock } = useWindowView();
  const amount = useAmount(supply.unit);
  const out = supply.runs_out;
  const lineName = day.lines.find((line) => line.id === out?.line)?.name;
  return (
    <Panel label={supply.name} className="order-first self-start p-4 lg:order-none">
      <h2 className="font-bold text-lg leading-6">{supply.name}</h2>
      {supply.on_hand == null ? (
        <p className="text-ink-2 text-sm">
          {amount.shown(supply.used)} {amount.name} drawn. No stock is known, so nothing is said of running out.
        </p>
      ) : (
        <p className="text-ink-2 text-sm">
          {amount.shown(supply.on_hand)} there at the start + {amount.shown(supply.delivered)} coming in −{" "}
          {amount.shown(supply.used)} drawn, {amount.name}
        </p>
      )}
      {supply.binds && (
        <p className="text-sm">
          Plans draw only what is there: a run waits for a delivery, or is left out with this as the reason.
        </p>
      )}
      {out && (
        <p role="alert" className="mt-2 font-semibold text-ember text-sm">
          Runs out on {clock.date(out.at_min)} at {clock.time(out.at_min)}, at{" "}
          <Link className="underline" to={`/plan?line=${out.line}&run=${out.run}`}>
            {lineName}, {out.run} batch {out.batch}
          </Link>
          : {amount.shown(out.missing)} {amount.name} are missing for it.
        </p>
      )}
      <LevelChart supply={supply} shown={amount.shown} clock={clock} />
      <p className="text-ink-2 text-xs">
        Bars: drawn in each hour, in {plural(supply.by_hour.filter((drawn) => drawn > 0).length, "hour")}. Line: what is
        left.
      </p>
      {pastWindow === undefined && supply.item !== ICE && <StockEntry supply={supply} />}
    </Panel>
  );
}

const HEIGHT = 340;
const LEFT = 62;
const TOP = 12;
const FLOOR = HEIGHT - 28;
const HOUR = 60;

type ChartProps = {
  supply: Supply;
  shown: (value: number) => string;
  clock: ReturnType<typeof useWindowView>["clock"];
};

/** Bars of each hour's draw against the right, and the level as a stair against the left. */
function LevelChart({ supply, shown, clock }: ChartProps) {
  const [element, width] = useWidth<HTMLDivElement>(700);
  const { by_hour, levels } = supply;
  const x = scaleLinear()
    .domain([0, by_hour.length * HOUR])
    .range([LEFT, width - 8]);
  const most = Math.max(...by_hour, ...levels.map((level) => level.amount), 1);
  const least = Math.min(0, ...levels.map((level) => level.amount));
  const y = scaleLinear().domain([least, most]).nice(4).range([FLOOR, TOP]);
  const stairs = levels.map((level, index) => {
    const until = levels[index + 1]?.minute ?? by_hour.length * HOUR;
    return `${x(level.minute)},${y(level.amount)} ${x(until)},${y(level.amount)}`;
  });
  return (
    <div ref={element} className="mt-2 min-w-0">
      <svg
        width={width}
        height={HEIGHT}
        role="img"
        aria-label={`${supply.name} by the hour`}
        className="block text-ink"
      >
        {y.ticks(4).map((tick) => (
          <g key={tick} className="text-ink-2">
            <line x1={LEFT} x2={width - 8} y1={y(tick)} y2={y(tick)} stroke="var(--rule)" />
            <text x={LEFT - 8} y={y(tick) + 4} fontSize="12" textAnchor="end">
              {shown(tick)}
            </text>
          </g>
        ))}
        {clock.ticks(0, by_hour.length * HOUR, 720).map((minute) => (
          <g key={minute} className="text-ink-2">
            <line x1={x(minute)} x2={x(minute)} y1={TOP} y2={FLOOR + 6} stroke="var(--rule)" />
            <text x={x(minute)} y={FLOOR + 20} fontSize="12" textAnchor="middle">
              {clock.moment(minute)}
            </text>
          </g>
        ))}
        {by_hour.map((drawn, hour) => (
          <rect
            // biome-ignore lint/suspicious/noArrayIndexKey: hours stand in a fixed order
            key={hour}
            x={x(hour * HOUR) + 0.5}
            y={y(drawn)}
            width={Math.max(1, x(HOUR) - x(0) - 1)}
            height={Math.max(0, y(0) - y(drawn))}
            fill="var(--dough-1)"
            stroke="var(--dough-edge-1)"
            strokeWidth={drawn > 0 ? 0.6 : 0}
          />
        ))}
        {least < 0 && <rect x={LEFT} y={y(0)} width={width - 8 - LEFT} height={FLOOR - y(0)} fill="url(#nothing)" />}
        <defs>
          <pattern id="nothing" patternUnits="userSpaceOnUse" width="6" height="6" patternTransform="rotate(35)">
            <path d="M0 0V6" stroke="var(--ember)" strokeWidth="1.2" opacity="0.5" />
          </pattern>
        </defs>
        {stairs.length > 0 && (
          <polyline points={stairs.join(" ")} fill="none" stroke="var(--steam)" strokeWidth="2.5" />
        )}
        <line x1={LEFT} x2={width - 8} y1={y(0)} y2={y(0)} stroke="currentColor" strokeWidth="1.2" />
        {supply.runs_out && (
          <line
            x1={x(supply.runs_out.at_min)}
            x2={x(supply.runs_out.at_min)}
            y1={TOP}
            y2={FLOOR}
            stroke="var(--ember)"
            strokeWidth="2"
          />
        )}
      </svg>
    </div>
  );
}
