/** The weather outside, by the hour, and what it makes of the room. */
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { useWeather } from "../../api/queries";
import { oneDecimal } from "../../app/format";
import { useUnits } from "../../app/units";
import { Loading, Refused } from "../../ui/parts";
import { useWindowView } from "../planningWindow";

type View = Schemas["WeatherView"];
type Line = { label: string; look: string; values: number[] };

export function WeatherPanel() {
  const weather = useWeather();
  if (weather.isError) return <Refused error={weather.error} />;
  if (!weather.data) return <Loading what="the weather" />;
  return <Found view={weather.data} />;
}

function Found({ view }: { view: View }) {
  const units = useUnits();
  const kelvin = (figure: number) =>
    `${units.shown(figure, "temperature difference")} ${units.name("temperature difference")}`;
  const { model, fitted } = view;
  const known = view.hours.filter((hour) => hour.room);
  const rooms = known.map((hour) => hour.room?.room_c ?? 0);
  const wet = known.map((hour) => hour.room?.humidity_pct ?? 0);
  return (
    <div className="text-sm">
      {view.simulated && (
        <p className="mb-1 font-semibold text-steam">The weather of {view.place} is simulated: it is made up.</p>
      )}
      <Curves
        view={view}
        quantity="temperature"
        lines={[
          { label: "outside", look: "stroke-steam", values: view.hours.map((hour) => hour.outdoor.air_c) },
          { label: "room", look: "stroke-crust", values: rooms },
        ]}
      />
      <Curves
        view={view}
        quantity=""
        lines={[
          { label: "outside", look: "stroke-steam", values: view.hours.map((hour) => hour.outdoor.humidity_pct) },
          { label: "room", look: "stroke-crust", values: wet },
        ]}
      />
      <p className="text-ink-2 text-xs">Dashed: outside. Right of the mark it is expected.</p>
      {model ? (
        <p className="mt-1">
          The room follows with a lag of {oneDecimal(model.lag_h)} h, {kelvin(model.offset_k)} warmer than outside. The
          water in the air comes in with it; the plant adds {units.shown(model.water_g_per_kg, "water in air")}{" "}
          {units.name("water in air")}.
        </p>
      ) : (
        <p className="mt-1 text-ember">
          The plant does not say how its room follows the weather.{" "}
          <Link to="/plant/plant" className="underline">
            Enter it under The plant
          </Link>
        </p>
      )}
      <p className="mt-1 text-ink-2 text-xs">
        {fitted
          ? `By ${fitted.readings} readings of the last 30 days it would be a lag of ${oneDecimal(fitted.lag_h)} h and ${kelvin(fitted.offset_k)}; they are ${kelvin(fitted.spread_k)} off that.`
          : `To fit this to your room, enter the conditions now and then. ${view.too_little}`}
      </p>
    </div>
  );
}

const WIDTH = 480;
const HEIGHT = 92;
const LEFT = 44;
const FOOT = 16;
const DAY_STEP = 720;

function Curves({ view, lines, quantity }: { view: View; lines: Line[]; quantity: string }) {
  const { clock } = useWindowView();
  const units = useUnits();
  const figures = lines.flatMap((line) => line.values);
  const [least, most] = [Math.min(...figures) - 1, Math.max(...figures) + 1];
  const end = (view.hours.length - 1) * 60;
  const x = (minute: number) => LEFT + ((WIDTH - LEFT - 4) * minute) / end;
  const y = (value: number) => 4 + (HEIGHT - FOOT - 8) * (1 - (value - least) / (most - least));
  const path = (values: number[]) =>
    values.map((value, hour) => `${hour ? "L" : "M"}${x(hour * 60)} ${y(value)}`).join("");
  const name = quantity ? units.name(quantity) : "%";
  const now = view.hours.find((hour) => hour.expected)?.minute;
  const said = lines.map((line) => `${line.label} ${span(line.values, quantity, units.shown)} ${name}`).join(", ");
  return (
    <figure>
      <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} role="img" aria-label={said} className="w-full fill-ink-2 text-[10px]">
        {[least + 1, most - 1].map((value) => (
          <text key={value} x={LEFT - 6} y={y(value) + 3} textAnchor="end">
            {units.shown(value, quantity, 0)}
          </text>
        ))}
        {clock.ticks(0, end, DAY_STEP).map((minute) => (
          <g key={minute}>
            <path d={`M${x(minute)} 4V${HEIGHT - FOOT}`} className="stroke-rule" />
            <text x={x(minute)} y={HEIGHT - 4} textAnchor="middle">
              {clock.moment(minute)}
            </text>
          </g>
        ))}
        {now !== undefined && now > 0 && <path d={`M${x(now)} 4V${HEIGHT - FOOT}`} className="stroke-ember" />}
        {lines.map((line) => (
          <path
            key={line.label}
            d={path(line.values)}
            fill="none"
            strokeWidth="1.8"
            strokeDasharray={line.label === "outside" ? "4 3" : undefined}
            className={line.look}
          />
        ))}
      </svg>
      <figcaption className="text-ink-2 text-xs">
        {quantity ? "Temperature" : "Humidity"}: {said}.
      </figcaption>
    </figure>
  );
}

function span(
  values: number[],
  quantity: string,
  shown: (value: number, quantity: string, decimals?: number) => string,
) {
  if (values.length === 0) return "not known";
  return `${shown(Math.min(...values), quantity, 0)} to ${shown(Math.max(...values), quantity, 0)}`;
}
