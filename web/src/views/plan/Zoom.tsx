/** Closer, wider, along the clock: buttons and keys that every chart of the plan has. */
import type { Span } from "../../charts/timeScale";
import { useKeys } from "../../ui/useKeys";

const CLOSER = 0.7;
const STEPS_A_WINDOW = 8;

type ZoomProps = {
  span: Span;
  onZoom: (factor: number) => void;
  onMove: (minutes: number) => void;
  onReset: () => void;
};

/** Buttons and keys that draw a chart closer and wider, and keys that move it along the clock. */
export function Zoom({ span, onZoom, onMove, onReset }: ZoomProps) {
  const look = "h-7 min-w-7 rounded border border-rule px-2 text-ink hover:border-crust";
  const [closer, wider] = [() => onZoom(CLOSER), () => onZoom(1 / CLOSER)];
  const step = (span[1] - span[0]) / STEPS_A_WINDOW;
  useKeys({
    "+": closer,
    "-": wider,
    "0": onReset,
    ArrowLeft: () => onMove(-step),
    ArrowRight: () => onMove(step),
  });
  return (
    <span className="flex gap-1">
      <button type="button" className={look} aria-label="Closer" onClick={closer}>
        +
      </button>
      <button type="button" className={look} aria-label="Wider" onClick={wider}>
        −
      </button>
      <button type="button" className={look} onClick={onReset}>
        All of it
      </button>
    </span>
  );
}
