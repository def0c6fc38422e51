/** What a line can carry of a product: the strip of gates, the pace, what would lift it, and two ways side by side. */

import { useNavigate, useParams } from "react-router";
import type { LineBalance } from "../../api/client";
import { useBalance } from "../../api/queries";
import { duration, oneDecimal, whole } from "../../app/format";
import { useUnits } from "../../app/units";
import { GateStrip } from "../../charts/GateStrip";
import { Dial } from "../../ui/Dial";
import { LinePick } from "../../ui/LinePick";
import { Pick } from "../../ui/Pick";
import { Button, Empty, Figure, Header, Loading, Panel, Refused, Row } from "../../ui/parts";
import { Said } from "../../ui/Said";
import { useKeys } from "../../ui/useKeys";
import { useStep } from "../../ui/useStep";
import { useWidth } from "../../ui/useWidth";
import { useLine, useWindowView } from "../planningWindow";
import { machinesOf, StagePanel } from "./StagePanel";
import { type Held, type Setting, useSetting } from "./setting";

type Product = ReturnType<typeof useWindowView>["day"]["products"][number];

export function LineView() {
  const { day } = useWindowView();
  const params = useParams();
  const chosen = useLine();
  const line = day.lines.find((found) => found.id === (params.line ?? chosen?.id));
  const products = day.products.filter((product) => product.line === line?.id);
  const product = params.product ? products.find((found) => found.id === params.product) : products[0];
  if (!line || !product)
    return <Empty title="No such line or product">Choose a line and one of its products from the walk above.</Empty>;
  return <Balanced lineName={line.name} product={product} products={products} />;
}

function Balanced({ lineName, product, products }: { lineName: string; product: Product; products: Product[] }) {
  const navigate = useNavigate();
  const units = useUnits();
  const setting = useSetting(product.id);
  const balance = useBalance(product.line, product.id, setting.request);
  if (balance.isPending) return <Loading what="the balance" />;
  if (balance.isError)
    return (
      <div className="m-5">
        <Refused error={balance.error} again={setting.clear} />
      </div>
    );
  const found = balance.data;
  const stage = found.stages.find((one) => one.station === setting.station) ?? narrowestOf(found);
  const kept = setting.held ? `?beside=${encodeURIComponent(setting.search.get("beside") ?? "")}` : "";
  return (
    <>
      <Header
        title={`${lineName}, ${product.name}`}
        sub={`${product.family}: what the line can carry`}
        figures={
          <>
            <Figure value={`${whole(found.most_per_h)} /h`} label={`most it can do, ${product.pieces}`} />
            <Figure value={narrowestOf(found)?.name} label="is the bottleneck" wrong />
            <Figure
              value={`${oneDecimal(found.batch_interval_min)} min`}
              label={`a ${units.shown(found.batch_kg, "dough mass")} ${units.name("dough mass")} dough each`}
            />
            <Figure value={duration(found.flour_to_pack_min)} label="flour to first pack" />
          </>
        }
        actions={
          <>
            <LinePick line={product.line} onChange={(line) => navigate(`/line/${line}`)} />
            <Pick
              label="Product"
              value={product.id}
              onChange={(id) => navigate(`/line/${product.line}/${id}${kept}`)}
              options={products.map((one) => ({ value: one.id, label: one.name, group: one.family }))}
            />
          </>
        }
      />
      <div className="grid flex-1 gap-2 px-2 pb-2 lg:grid-cols-[1fr_19rem]">
        <div className="flex min-w-0 flex-col gap-2">
          <Strip balance={found} pieces={product.pieces} selected={stage?.station} onSelect={setting.select} />
          {setting.held && (
            <Beside held={setting.held} found={found} products={products} setting={setting} line={product.line} />
          )}
          <div className="grid flex-1 gap-2 md:grid-cols-2">
            <Settings balance={found} product={product} setting={setting} />
            <Lifts balance={found} product={product} />
          </div>
        </div>
        {stage && (
          <StagePanel
            stage={stage}
            product={product.id}
            pieces={product.pieces}
            pace={found.pace_per_h}
            setting={setting}
          />
        )}
      </div>
    </>
  );
}

const narrowestOf = (balance: LineBalance) => balance.stages.find((one) => one.station === balance.bottleneck);

type StripProps = {
  balance: LineBalance;
  pieces: string;
  selected: string | undefined;
  onSelect: (id: string) => void;
};

function Strip({ balance, pieces, selected, onSelect }: StripProps) {
  const [element, width] = useWidth<HTMLDivElement>(900);
  const units = useUnits();
  const shown = balance.stages.find((stage) => stage.station === selected);
  const step = useStep(balance.stages, shown, (stage) => onSelect(stage.station));
  useKeys({ j: () => step(1), k: () => step(-1) });
  return (
    <Panel label="Stations" className="p-3">
      <div ref={element} className="min-w-0">
        <GateStrip {...{ balance, width, selected, onSelect, pieces }} />
        <ol
          className="grid text-center"
          style={{
            gridTemplateColumns: `repeat(${balance.stages.length}, minmax(0, 1fr))`,
            paddingLeft: 118,
            paddingRight: 12,
          }}
        >
          {balance.stages.map((stage) => (
            <li key={stage.station} className="hyphens-auto break-words px-0.5 pt-1 text-xs leading-[14px]" lang="en">
              <span className={`block font-bold ${stage.station === balance.bottleneck ? "text-ember" : ""}`}>
                {stage.name}
              </span>
              <span className="block text-ink-2">{machinesOf(stage, units)}</span>
              <span className="block text-ink-2">
                {stage.time_is === "Time inside"
                  ? `${whole(stage.inside)} inside`
                  : `${oneDecimal(stage.dwell_min)} min each`}
              </span>
            </li>
          ))}
        </ol>
      </div>
    </Panel>
  );
}

type BesideProps = { held: Held; found: LineBalance; products: Product[]; setting: Setting; line: string };

/** The setting held for comparison: its own strip, and what differs. */
function Beside({ held, found, products, setting, line }: BesideProps) {
  const other = useBalance(line, held.product, held.request);
  const product = products.find((one) => one.id === held.product);
  if (!product || other.isError)
    return (
      <Panel className="p-3 text-sm">
        What was held cannot be shown on this line.{" "}
        <button type="button" className="underline" onClick={setting.letGo}>
          Let it go
        </button>
      </Panel>
    );
  if (!other.data) return <Loading what="what was held" />;
  const rows: [string, string, string][] = [
    ["most an hour", whole(found.most_per_h), whole(other.data.most_per_h)],
    ["packs an hour", whole(found.packs_per_h), whole(other.data.packs_per_h)],
    ["bottleneck", narrowestOf(found)?.name ?? "", narrowestOf(other.data)?.name ?? ""],
    ["a dough every, min", oneDecimal(found.batch_interval_min), oneDecimal(other.data.batch_interval_min)],
    ["flour to first pack", duration(found.flour_to_pack_min), duration(other.data.flour_to_pack_min)],
  ];
  return (
    <Panel label="Held beside" className="p-3">
      <div className="mb-1 flex items-center justify-between text-sm">
        <strong>Held beside: {product.name}</strong>
        <button type="button" className="underline" onClick={setting.letGo}>
          Let it go
        </button>
      </div>
      <HeldStrip balance={other.data} pieces={product.pieces} selected={setting.station} onSelect={setting.select} />
      <table className="mt-1 w-full text-sm">
        <thead>
          <tr className="border-rule border-b text-left text-muted text-xs">
            <th className="font-semibold">&nbsp;</th>
            <th className="text-right font-semibold">above</th>
            <th className="text-right font-semibold">held</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(([name, mine, theirs]) => (
            <tr key={name} className="border-rule border-b">
              <td className="py-0.5">{name}</td>
              <td className="text-right font-semibold">{mine}</td>
              <td className={`text-right ${mine === theirs ? "text-ink-2" : "font-semibold"}`}>{theirs}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Panel>
  );
}

function HeldStrip(props: StripProps) {
  const [element, width] = useWidth<HTMLDivElement>(900);
  return (
    <div ref={element} className="min-w-0">
      <GateStrip {...props} width={width} height={HELD_HEIGHT} />
    </div>
  );
}

const HELD_HEIGHT = 130;
const PACE_STEPS = 100;

function Settings({ balance, product, setting }: { balance: LineBalance; product: Product; setting: Setting }) {
  const { day } = useWindowView();
  const units = useUnits();
  const step = 10 ** Math.max(0, Math.round(Math.log10(balance.most_per_h / PACE_STEPS)));
  const most = Math.ceil((balance.most_per_h * 1.4) / step) * step;
  const over = balance.stages.filter((stage) => stage.utilisation > 1.0005);
  const room = setting.request.setting.room_c ?? day.conditions.room_c;
  return (
    <Panel label="Settings" className="p-4">
      <Dial
        name="Pace wanted"
        value={setting.request.pace ?? balance.pace_per_h}
        least={step}
        most={most}
        step={step}
        shown={(pace) => `${whole(pace)} /h`}
        onChange={setting.setPace}
      />
      <Dial
        name="Room"
        value={room}
        least={5}
        most={38}
        step={0.5}
        shown={(celsius) => `${units.shown(celsius, "temperature")} ${units.name("temperature")}`}
        onChange={setting.setRoom}
      />
      <dl className="mt-2">
        <Row name="Packs an hour">{whole(balance.packs_per_h)}</Row>
        <Row name="Can run from, to, an hour">
          {whole(balance.least_per_h)} to {whole(balance.most_per_h)}
        </Row>
        <Row name="Largest dough">
          {units.shown(balance.batch_kg, "dough mass")} {units.name("dough mass")} by {balance.batch_because}
        </Row>
        <Row name="Mixers needed">{balance.mixers_needed}</Row>
        <Row name="Flour to a dough's last pack">{duration(balance.flour_to_last_pack_min)}</Row>
        {balance.rework_kg_per_h > 0 && (
          <Row name="Dough that comes back, an hour">
            {units.shown(balance.rework_kg_per_h, "dough mass")} {units.name("dough mass")}
          </Row>
        )}
      </dl>
      <details className="mt-1 text-sm">
        <summary className="cursor-pointer text-ink-2">How these are calculated</summary>
        <ul className="mt-1 grid gap-1">
          {balance.working.map((line) => (
            <li key={line}>
              <Said text={line} />
            </li>
          ))}
        </ul>
      </details>
      {over.length > 0 ? (
        <p className="mt-2 font-semibold text-ember text-sm">
          Too fast for {over.map((stage) => stage.name).join(", ")}.
        </p>
      ) : (
        <p className="mt-2 text-ink-2 text-sm">Every station carries this pace.</p>
      )}
      <div className="mt-3 flex flex-wrap gap-2">
        <Button onClick={setting.hold}>Compare</Button>
        {setting.isChanged && (
          <Button onClick={setting.clear}>Back to {whole(product.target_per_hour)} /h, as it is</Button>
        )}
      </div>
    </Panel>
  );
}

function Lifts({ balance, product }: { balance: LineBalance; product: Product }) {
  const names = new Map(balance.stages.map((stage) => [stage.station, stage.name]));
  return (
    <Panel label="What would lift the pace" className="p-4">
      <table className="w-full text-sm">
        <caption className="pb-1 text-left font-semibold text-muted text-xs">What would lift the pace</caption>
        <thead>
          <tr className="border-rule border-b text-left text-muted text-xs">
            <th className="py-1 font-semibold">One change</th>
            <th className="py-1 text-right font-semibold">{product.pieces}/h</th>
            <th className="py-1 text-right font-semibold">Then the bottleneck is</th>
          </tr>
        </thead>
        <tbody>
          {balance.lifts.map((lift) => (
            <tr key={lift.change} className="border-rule border-b">
              <td className="py-1.5">
                <Said text={lift.change} />
              </td>
              <td className="py-1.5 text-right font-semibold">
                {lift.pace_per_h - balance.most_per_h < 0.5 ? "no gain" : whole(lift.pace_per_h)}
              </td>
              <td className="py-1.5 text-right">{names.get(lift.then_station)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Panel>
  );
}
