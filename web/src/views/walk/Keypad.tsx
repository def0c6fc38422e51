/** Figures for one hand: large keys, and an Enter that takes the figure. */
type Props = { text: string; onText: (text: string) => void; onEnter: () => void; enter: string; label: string };

const KEYS = ["7", "8", "9", "4", "5", "6", "1", "2", "3", ".", "0", "⌫"] as const;
const LONGEST = 7;

export function Keypad({ text, onText, onEnter, enter, label }: Props) {
  const press = (key: (typeof KEYS)[number]) => {
    if (key === "⌫") onText(text.slice(0, -1));
    else if (key === ".") onText(text.includes(".") ? text : `${text || "0"}.`);
    else if (text.length < LONGEST) onText(text + key);
  };
  return (
    <fieldset className="mt-3 grid grid-cols-[minmax(0,3fr)_minmax(0,2fr)] gap-3">
      <legend className="sr-only">Figures of {label}</legend>
      <div className="grid grid-cols-3 gap-2">
        {KEYS.map((key) => (
          <button
            key={key}
            type="button"
            aria-label={key === "⌫" ? "delete the last figure" : undefined}
            onClick={() => press(key)}
            className="h-16 rounded-xl border border-trail/60 bg-ground font-bold text-2xl active:bg-crumb"
          >
            {key}
          </button>
        ))}
      </div>
      <button
        type="button"
        onClick={onEnter}
        disabled={text === "" || text === "."}
        className="rounded-xl bg-ink px-3 font-bold text-paper text-xl disabled:opacity-50"
      >
        {enter}
      </button>
    </fieldset>
  );
}
