/** One gate: its arithmetic with today's figures, what else there is to know of it, and what of it can be set. */

import { Link } from "react-router";
import type { LineBalance } from "../../api/client";
import { duration, oneDecimal, percent, whole } from "../../app/format";
import { type Units, useUnits } from "../../app/units";
import { Cautions } from "../../ui/Cautions";
import { Dial } from "../../ui/Dial";
import { Button, Heading, Panel, Row } from "../../ui/parts";
import { Said } from "../../ui/Said";
import { SetUpList } from "../../ui/SetUpList";
import type { Setting } from "./setting";

export type Stage = LineBalance["stages"][number];

export const one = (many: string) => (many === "people" ? "person" : many.replace(/s$/, ""));

const beltSpeed = (metric: number, units: Units) => `${units.shown(metric, "belt speed")} ${units.name("belt speed")}`;

/** Belt speed where there is a belt, else how many work there, and how many it would take. */
export function machinesOf(stage: Stage, units: Units): string {
  if (stage.belt_m_per_min != null) return beltSpeed(stage.belt_m_per_min, units);
  const needed = stage.machines_needed > stage.machines ? `, needs ${whole(stage.machines_needed)}` : "";
  return `${whole(stage.machines)} ${stage.machines === 1 ? one(stage.machines_are) : stage.machines_are}${needed}`;
}

type Props = { stage: Stage; product: string; pieces: string; pace: number; setting: Setting };

export function StagePanel({ stage, product, pieces, pace, setting }: Props) {
  const taken = stage.taken_per_piece < 0.01 ? stage.taken_per_piece.toPrecision(3) : stage.taken_per_piece.toFixed(3);
  const units = useUnits();
  return (
    <Panel label={stage.name} className="p-4">
      <h2 className="font-bold text-lg leading-6">{stage.name}</h2>
      <SetOtherwise stage={stage} setting={setting} />
      <Heading>Capacity</Heading>
      <p className="text-sm">
        <Said text={stage.arithmetic} />
      </p>
      <Heading>In finished {pieces}</Heading>
      <p className="text-sm">
        <Said text={`${whole(stage.capacity_in_per_h)} ${stage.counted}`} /> ÷ {taken} taken for one finished
        <span className="block font-bold">= {whole(stage.capacity_per_h)} an hour</span>
      </p>
      <Heading>Inside, by Little's law</Heading>
      <p className="text-sm">
        {whole(pace)} × {taken} an hour × {oneDecimal(stage.dwell_min)} min ÷ 60
        <span className="block font-bold">
          = <Said text={`${whole(stage.inside)} ${stage.counted}`} />
        </span>
      </p>
      <dl className="mt-4 border-rule border-t pt-2">
        <Row name="Used at this pace">{percent(stage.utilisation)}</Row>
        <Row name={stage.time_is}>{duration(stage.dwell_min)}</Row>
        {stage.belt_m_per_min != null && <Row name="Belt speed">{beltSpeed(stage.belt_m_per_min, units)}</Row>}
        {stage.adjustable && (
          <Row name={stage.machines_are}>
            {whole(stage.machines)}, needed {whole(stage.machines_needed)}
          </Row>
        )}
        {stage.figures.map((figure) => (
          <Row key={figure.name} name={figure.name}>
            {units.shown(figure.value, figure.quantity, figure.decimals)} {units.name(figure.quantity, figure.unit)}
          </Row>
        ))}
      </dl>
      {stage.has_calculator && (
        <Link to={`/calculators?product=${product}`} className="mt-1 inline-block text-sm underline">
          Calculate with these figures
        </Link>
      )}
      {stage.set_up.length > 0 && (
        <>
          <Heading>Look at before a run starts</Heading>
          <SetUpList checks={stage.set_up} />
        </>
      )}
      {stage.cautions.length > 0 && (
        <>
          <Heading>Cautions</Heading>
          <Cautions cautions={stage.cautions} />
        </>
      )}
    </Panel>
  );
}

const LONGEST_TIMES = 2;

function SetOtherwise({ stage, setting }: { stage: Stage; setting: Setting }) {
  const counts = setting.request.setting.count ?? {};
  const times = setting.request.setting.dwell_min ?? {};
  const changed = stage.station in counts || stage.station in times;
  const count = counts[stage.station] ?? stage.machines;
  const step = stage.dwell_min > 20 ? 1 : 0.1;
  return (
    <div className="mt-2 grid gap-1">
      {stage.adjustable && (
        <div className="flex items-center justify-between gap-2 text-sm">
          <span>{stage.machines_are}</span>
          <span className="flex items-center gap-1.5">
            <Button
              aria-label={`One of ${stage.machines_are} less`}
              disabled={count <= 1}
              onClick={() => setting.setCount(stage.station, count - 1)}
            >
              −
            </Button>
            <output className="w-12 text-center font-bold">{whole(count)}</output>
            <Button
              aria-label={`One of ${stage.machines_are} more`}
              onClick={() => setting.setCount(stage.station, count + 1)}
            >
              +
            </Button>
          </span>
        </div>
      )}
      {stage.settable && (
        <Dial
          key={stage.station}
          name="Time inside"
          value={times[stage.station] ?? stage.dwell_min}
          least={step}
          most={Math.ceil(stage.dwell_min * LONGEST_TIMES)}
          step={step}
          shown={(minutes) => `${oneDecimal(minutes)} min`}
          onChange={(minutes) => setting.setDwell(stage.station, Number(minutes.toFixed(1)))}
        />
      )}
      {changed && (
        <button
          type="button"
          className="justify-self-start text-sm underline"
          onClick={() => {
            if (stage.station in counts) setting.setCount(stage.station, undefined);
            else setting.setDwell(stage.station, undefined);
          }}
        >
          As it is in the plant
        </button>
      )}
    </div>
  );
}
