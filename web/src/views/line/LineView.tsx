/** What a line can carry of a product: the strip of gates, the pace, and what would lift it. */
import { Slider } from "radix-ui";
import { useEffect, useState } from "react";
import { useNavigate, useParams, useSearchParams } from "react-router";
import type { LineBalance } from "../../api/client";
import { useBalance } from "../../api/queries";
import { duration, oneDecimal, percent, whole } from "../../app/format";
import { type Units, useUnits } from "../../app/units";
import { GateStrip } from "../../charts/GateStrip";
import { Choice } from "../../ui/Choice";
import { Button, Empty, Figure, Header, Heading, Loading, Panel, Refused, Row } from "../../ui/parts";
import { useKeys } from "../../ui/useKeys";
import { useStep } from "../../ui/useStep";
import { useWidth } from "../../ui/useWidth";
import { useDayView } from "../day";

type Product = ReturnType<typeof useDayView>["day"]["products"][number];
type Stage = LineBalance["stages"][number];

export function LineView() {
  const { day } = useDayView();
  const params = useParams();
  const line = day.lines.find((found) => found.id === (params.line ?? day.lines[0]?.id));
  const products = day.products.filter((product) => product.line === line?.id);
  const product = params.product ? products.find((found) => found.id === params.product) : products[0];
  if (!line || !product)
    return <Empty title="No such line or product">Choose a line and one of its products from the walk above.</Empty>;
  return <Balanced key={product.id} lineName={line.name} product={product} products={products} />;
}

function Balanced({ lineName, product, products }: { lineName: string; product: Product; products: Product[] }) {
  const [search, setSearch] = useSearchParams();
  const navigate = useNavigate();
  const asked = Number(search.get("pace")) || undefined;
  const units = useUnits();
  const balance = useBalance(product.line, product.id, asked);
  const setPace = (pace: number | undefined) => change("pace", pace === undefined ? undefined : String(pace));
  const change = (name: string, value: string | undefined) =>
    setSearch(
      (before) => {
        if (value === undefined) before.delete(name);
        else before.set(name, value);
        return before;
      },
      { replace: true },
    );
  if (balance.isPending) return <Loading what="the balance" />;
  if (balance.isError)
    return (
      <div className="m-5">
        <Refused error={balance.error} again={() => setPace(undefined)} />
      </div>
    );
  const found = balance.data;
  const stage = found.stages.find((one) => one.station === (search.get("station") ?? found.bottleneck));
  const narrowest = found.stages.find((one) => one.station === found.bottleneck);
  return (
    <>
      <Header
        title={`${lineName}, ${product.name}`}
        sub="what the line can carry"
        figures={
          <>
            <Figure value={`${whole(found.most_per_h)} /h`} label={`most it can do, ${product.piece}s`} />
            <Figure value={narrowest?.name} label="is the narrowest gate" wrong />
            <Figure
              value={`${oneDecimal(found.batch_interval_min)} min`}
              label={`a ${units.shown(found.batch_kg, "dough mass")} ${units.name("dough mass")} dough each, ${found.mixers_needed} mixers`}
            />
            <Figure value={duration(found.flour_to_pack_min)} label="flour to first pack" />
          </>
        }
        actions={
          <Choice
            label="Product"
            value={product.id}
            onChange={(id) => navigate(`/line/${product.line}/${id}`)}
            options={products.map((one) => ({ value: one.id, label: one.name }))}
          />
        }
      />
      <div className="grid flex-1 gap-2 px-2 pb-2 lg:grid-cols-[1fr_19rem]">
        <div className="flex min-w-0 flex-col gap-2">
          <Strip
            balance={found}
            product={product}
            selected={stage?.station ?? ""}
            onSelect={(id) => change("station", id)}
          />
          <div className="grid flex-1 gap-2 md:grid-cols-2">
            <Pace balance={found} product={product} asked={asked} onPace={setPace} />
            <Lifts balance={found} product={product} />
          </div>
        </div>
        {stage && <StagePanel stage={stage} product={product} pace={found.pace_per_h} />}
      </div>
    </>
  );
}

type StripProps = { balance: LineBalance; product: Product; selected: string; onSelect: (id: string) => void };

function Strip({ balance, product, selected, onSelect }: StripProps) {
  const [element, width] = useWidth<HTMLDivElement>(900);
  const units = useUnits();
  const shown = balance.stages.find((stage) => stage.station === selected);
  const step = useStep(balance.stages, shown, (stage) => onSelect(stage.station));
  useKeys({ j: () => step(1), k: () => step(-1) });
  return (
    <Panel label="Gates" className="p-3">
      <div ref={element} className="min-w-0">
        <GateStrip {...{ balance, width, selected, onSelect }} piece={product.piece} />
        <ol
          className="grid text-center"
          style={{ gridTemplateColumns: `repeat(${balance.stages.length}, 1fr)`, paddingLeft: 118, paddingRight: 12 }}
        >
          {balance.stages.map((stage) => (
            <li key={stage.station} className="pt-1 text-xs leading-4">
              <span className={`block font-bold text-sm ${stage.station === balance.bottleneck ? "text-ember" : ""}`}>
                {stage.name}
              </span>
              <span className="block text-ink-2">{machinesOf(stage, units)}</span>
              <span className="block text-ink-2">
                {stage.kind === "batch"
                  ? `${oneDecimal(stage.dwell_min)} min a dough`
                  : `${whole(stage.inside)} inside`}
              </span>
            </li>
          ))}
        </ol>
      </div>
    </Panel>
  );
}

const beltSpeed = (metric: number, units: Units) => `${units.shown(metric, "belt speed")} ${units.name("belt speed")}`;

function machinesOf(stage: Stage, units: Units): string {
  if (stage.belt_m_per_min != null) return beltSpeed(stage.belt_m_per_min, units);
  const needed = stage.machines_needed > stage.machines ? `, needs ${stage.machines_needed}` : "";
  return `${stage.machines} ${stage.machines === 1 ? stage.machines_are.replace(/s$/, "") : stage.machines_are}${needed}`;
}

type PaceProps = {
  balance: LineBalance;
  product: Product;
  asked: number | undefined;
  onPace: (p: number | undefined) => void;
};

function Pace({ balance, product, asked, onPace }: PaceProps) {
  const most = Math.ceil((balance.most_per_h * 1.4) / 500) * 500;
  const [shown, setShown] = useState(asked ?? balance.pace_per_h);
  useEffect(() => {
    if (asked === undefined) setShown(balance.pace_per_h);
  }, [asked, balance.pace_per_h]);
  const move = (pace: number) => {
    setShown(pace);
    onPace(pace);
  };
  const over = balance.stages.filter((stage) => stage.utilisation > 1.0005);
  return (
    <Panel label="Pace" className="p-4">
      <div className="flex items-center gap-4">
        <span className="w-24 text-sm" id="pace-name">
          Pace wanted
        </span>
        <Slider.Root
          min={500}
          max={most}
          step={100}
          value={[Math.round(shown)]}
          onValueChange={([pace]) => pace !== undefined && move(pace)}
          className="relative flex h-8 flex-1 touch-none items-center"
        >
          <Slider.Track className="relative h-1.5 flex-1 rounded bg-rule">
            <Slider.Range className="absolute h-full rounded bg-crust" />
          </Slider.Track>
          <Slider.Thumb
            aria-labelledby="pace-name"
            className="block h-5 w-5 rounded-full border-[3px] border-crust bg-paper"
          />
        </Slider.Root>
        <output className="w-24 text-right font-bold">{whole(shown)} /h</output>
      </div>
      <dl className="mt-2">
        <Row name="Packs an hour">{whole(balance.packs_per_h)}</Row>
        <Row name="A dough every">{oneDecimal(balance.batch_interval_min)} min</Row>
        <Row name="Mixers needed">{balance.mixers_needed}</Row>
      </dl>
      {over.length > 0 ? (
        <p className="mt-2 font-semibold text-ember text-sm">
          Too fast for {over.map((stage) => stage.name).join(", ")}.
        </p>
      ) : (
        <p className="mt-2 text-ink-2 text-sm">Every station carries this pace.</p>
      )}
      {asked !== undefined && (
        <Button className="mt-3" onClick={() => onPace(undefined)}>
          Back to {whole(product.target_per_hour)} /h
        </Button>
      )}
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
            <th className="py-1 text-right font-semibold">{product.piece}s/h</th>
            <th className="py-1 text-right font-semibold">Then the gate is</th>
          </tr>
        </thead>
        <tbody>
          {balance.lifts.map((lift) => (
            <tr key={lift.station} className="border-rule border-b">
              <td className="py-1.5">{lift.change}</td>
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

function StagePanel({ stage, product, pace }: { stage: Stage; product: Product; pace: number }) {
  const taken = stage.taken_per_piece.toFixed(3);
  const units = useUnits();
  return (
    <Panel label={stage.name} className="p-4">
      <h2 className="font-bold text-lg leading-6">{stage.name}</h2>
      <Heading>Capacity</Heading>
      <p className="text-sm">{stage.arithmetic}</p>
      <Heading>In finished {product.piece}s</Heading>
      <p className="text-sm">
        {whole(stage.capacity_in_per_h)} ÷ {taken} taken for one finished
        <span className="block font-bold">= {whole(stage.capacity_per_h)} an hour</span>
      </p>
      <Heading>Inside, by Little's law</Heading>
      <p className="text-sm">
        {whole(pace)} × {taken} an hour × {oneDecimal(stage.dwell_min)} min ÷ 60
        <span className="block font-bold">= {whole(stage.inside)} pieces</span>
      </p>
      <dl className="mt-4 border-rule border-t pt-2">
        <Row name="Used at this pace">{percent(stage.utilisation)}</Row>
        <Row name="Time inside">{duration(stage.dwell_min)}</Row>
        {stage.belt_m_per_min != null && <Row name="Belt speed">{beltSpeed(stage.belt_m_per_min, units)}</Row>}
        {stage.kind !== "conveyor" && stage.kind !== "chamber" && (
          <Row name={stage.machines_are}>
            {stage.machines}, needed {stage.machines_needed}
          </Row>
        )}
      </dl>
    </Panel>
  );
}
