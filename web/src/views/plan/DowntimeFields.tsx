/** From when, for how long, and why a station is closed: as it is entered, and as it is changed. */

export type Downtime = { from: string; minutes: string; reason: string };

type Props = { value: Downtime; onChange: (value: Downtime) => void };

const LOOK = "rounded border border-trail/60 bg-paper px-2 py-1.5";

export function DowntimeFields({ value, onChange }: Props) {
  const set = (part: Partial<Downtime>) => onChange({ ...value, ...part });
  return (
    <>
      <label>
        <span className="block text-ink-2 text-xs">From</span>
        <input
          type="datetime-local"
          required
          className={LOOK}
          value={value.from}
          onChange={(event) => set({ from: event.target.value })}
        />
      </label>
      <label>
        <span className="block text-ink-2 text-xs">for, min</span>
        <input
          type="number"
          required
          min={1}
          max={10080}
          className={`${LOOK} w-24 text-right`}
          value={value.minutes}
          onChange={(event) => set({ minutes: event.target.value })}
        />
      </label>
      <label className="order-last basis-full">
        <span className="block text-ink-2 text-xs">in words</span>
        <input
          maxLength={80}
          className={`${LOOK} w-full`}
          value={value.reason}
          onChange={(event) => set({ reason: event.target.value })}
        />
      </label>
    </>
  );
}
