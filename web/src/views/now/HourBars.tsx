/** The hours of a line as bars: made, planned as an outline, and why packs are missing. */
import { duration, whole } from "../../app/format";
import { useWidth } from "../../ui/useWidth";
import { useWindowView } from "../planningWindow";
import type { LineNow } from "./NowView";

type Hour = LineNow["hours"][number];

const [BARS_PX, UNDER_PX, BAR_SHARE] = [110, 22, 0.72];

export function HourBars({ now, nameOf }: { now: LineNow; nameOf: (station: string) => string }) {
  const { clock } = useWindowView();
  const [element, width] = useWidth<HTMLDivElement>(780);
  const most = Math.max(1, ...now.hours.map((hour) => Math.max(hour.planned, hour.made ?? 0)));
  const step = width / Math.max(1, now.hours.length);
  const high = (packs: number) => (packs / most) * BARS_PX;
  const missing = now.hours.filter((hour) => hour.lost > 0);
  return (
    <div ref={element}>
      <h2 className="font-bold">Made and planned by the hour, packs</h2>
      {now.hours.length === 0 ? (
        <p className="text-ink-2 text-sm">Nothing has been counted yet.</p>
      ) : (
        <svg width={width} height={BARS_PX + UNDER_PX + 8} role="img" aria-label={spoken(now.hours, clock.time)}>
          {now.hours.map((hour, place) => {
            const [left, wide] = [place * step + (step * (1 - BAR_SHARE)) / 2, step * BAR_SHARE];
            const [planned, made] = [high(hour.planned), high(hour.made ?? 0)];
            const base = BARS_PX + 4;
            return (
              <g key={hour.from_min}>
                {hour.made != null && (
                  <rect
                    x={left}
                    y={base - made}
                    width={wide}
                    height={made}
                    fill="var(--dough-1)"
                    stroke="var(--crust)"
                  />
                )}
                {hour.lost > 0 && (
                  <rect
                    x={left}
                    y={base - made - high(hour.lost)}
                    width={wide}
                    height={high(hour.lost)}
                    fill="url(#lost)"
                    stroke="var(--ember)"
                  />
                )}
                <rect
                  x={left}
                  y={base - planned}
                  width={wide}
                  height={planned}
                  fill="none"
                  className="text-muted"
                  stroke="currentColor"
                  strokeDasharray="4 3"
                />
                <text
                  x={left + wide / 2}
                  y={base - 8}
                  textAnchor="middle"
                  fontSize="13"
                  fontWeight="700"
                  fill="currentColor"
                >
                  {whole(hour.made ?? hour.planned)}
                </text>
                <text
                  x={left + wide / 2}
                  y={base + 16}
                  textAnchor="middle"
                  fontSize="12"
                  className="text-ink-2"
                  fill="currentColor"
                >
                  {clock.time(hour.from_min)}
                </text>
              </g>
            );
          })}
          <LostPattern />
          <path d={`M0 ${BARS_PX + 4}H${width}`} stroke="currentColor" className="text-muted" />
        </svg>
      )}
      {missing.length > 0 && (
        <ul className="mt-1 text-sm">
          {missing.map((hour) => (
            <li key={hour.from_min}>
              <span className="font-semibold">{clock.time(hour.from_min)}</span>: {whole(hour.lost)} missing
              {hour.causes.length > 0 && ", "}
              <span className="text-ember">{hour.causes.map((cause) => why(cause, nameOf)).join(", ")}</span>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

const STRIP_PX = 44;

/** The hours so far, small: made before planned. */
export function HourStrip({ now }: { now: LineNow }) {
  const { clock } = useWindowView();
  const [element, width] = useWidth<HTMLDivElement>(360);
  const hours = now.hours.filter((hour) => hour.made != null);
  const most = Math.max(1, ...hours.map((hour) => Math.max(hour.planned, hour.made ?? 0)));
  const step = Math.min(56, width / Math.max(1, hours.length));
  return (
    <div ref={element}>
      <svg
        width={width}
        height={STRIP_PX + 2}
        role="img"
        aria-label={hours.length ? spoken(hours, clock.time) : "nothing has been counted yet"}
      >
        {hours.map((hour, place) => {
          const [planned, made] = [(hour.planned / most) * STRIP_PX, ((hour.made ?? 0) / most) * STRIP_PX];
          return (
            <g key={hour.from_min}>
              <rect
                x={place * step}
                y={STRIP_PX - made}
                width={step - 6}
                height={made}
                fill={hour.is_short ? "url(#lost)" : "var(--dough-1)"}
                stroke={hour.is_short ? "var(--ember)" : "var(--crust)"}
              />
              <path d={`M${place * step} ${STRIP_PX - planned}h${step - 6}`} stroke="currentColor" strokeWidth="2" />
            </g>
          );
        })}
        <LostPattern />
      </svg>
    </div>
  );
}

/** Hatching for what is missing. */
const LostPattern = () => (
  <defs>
    <pattern id="lost" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
      <path d="M0 0V7" stroke="var(--ember)" strokeWidth="2" />
    </pattern>
  </defs>
);

function why(cause: Hour["causes"][number], nameOf: (station: string) => string): string {
  if (cause.kind === "slower") return `slower or later than planned −${whole(cause.packs)}`;
  return `${nameOf(cause.station ?? "")} stood ${duration(cause.minutes)} −${whole(cause.packs)}`;
}

const spoken = (hours: Hour[], time: (minute: number) => string) =>
  hours
    .map(
      (hour) =>
        `${time(hour.from_min)}: ${hour.made == null ? "" : `${whole(hour.made)} made, `}${whole(hour.planned)} planned`,
    )
    .join("; ");
