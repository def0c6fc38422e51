/** What a hand does on a ribbon chart: drag a run along the clock, draw closer, move. */
import { type PointerEvent, useEffect, useRef, useState } from "react";
import type { Run } from "../api/client";
import type { Span } from "./timeScale";

const DRAG_FROM_PX = 5;

type DragProps = {
  perMinute: number;
  onDrag?: (run: Run, startMin: number) => void;
  onDrop?: (run: Run, startMin: number) => void;
  onCancel?: () => void;
};

/** Dragging a run along the clock: it is grabbed, shown where it would go, and dropped or, with Escape, let be. */
export function useDrag({ perMinute, onDrag, onDrop, onCancel }: DragProps) {
  const grabbed = useRef<{ run: Run; from: number }>(undefined);
  const [dragged, setDragged] = useState<{ run: Run; startMin: number }>();
  const letBe = () => {
    grabbed.current = undefined;
    setDragged(undefined);
  };
  const cancel = useRef(onCancel);
  cancel.current = onCancel;
  useEffect(() => {
    if (!dragged) return;
    const letGo = (event: KeyboardEvent) => {
      if (event.key !== "Escape") return;
      event.stopImmediatePropagation();
      grabbed.current = undefined;
      setDragged(undefined);
      cancel.current?.();
    };
    window.addEventListener("keydown", letGo, true);
    return () => window.removeEventListener("keydown", letGo, true);
  }, [dragged]);
  const suppress = useRef(false);
  const handlers = onDrop
    ? {
        onPointerMoveCapture: (event: PointerEvent) => {
          const held = grabbed.current;
          if (!held || (!dragged && Math.abs(event.clientX - held.from) < DRAG_FROM_PX)) return;
          event.currentTarget.setPointerCapture(event.pointerId);
          const startMin = Math.max(0, Math.round(held.run.start_min + (event.clientX - held.from) / perMinute));
          setDragged({ run: held.run, startMin });
          onDrag?.(held.run, startMin);
        },
        onPointerUpCapture: () => {
          if (dragged) onDrop(dragged.run, dragged.startMin);
          letBe();
        },
        onClickCapture: (event: { stopPropagation: () => void }) => {
          if (suppress.current) event.stopPropagation();
          suppress.current = false;
        },
      }
    : {};
  if (dragged) suppress.current = true;
  const grab = (event: PointerEvent, run: Run) => {
    suppress.current = false;
    if (onDrop && event.button === 0) grabbed.current = { run, from: event.clientX };
  };
  return { handlers, grab, dragged };
}

type GestureProps = {
  span: Span;
  /** Where the clock begins in the drawing, px. */
  left: number;
  perMinute: number;
  onZoom: (factor: number, around: number) => void;
  onMove: (minutes: number) => void;
};

/** Ctrl and wheel draw closer, shift and wheel move, and so does dragging the ground. */
export function useGestures({ span, left, perMinute, onZoom, onMove }: GestureProps) {
  const ref = useRef<SVGSVGElement>(null);
  const drag = useRef<number>(undefined);
  const current = useRef({ span, left, onZoom, onMove, perMinute });
  current.current = { span, left, onZoom, onMove, perMinute };
  useEffect(() => {
    const chart = ref.current;
    if (!chart) return;
    const wheel = (event: WheelEvent) => {
      const { span, left, onZoom, onMove, perMinute } = current.current;
      if (event.ctrlKey || event.metaKey) {
        event.preventDefault();
        const pixel = event.clientX - chart.getBoundingClientRect().left - left;
        onZoom(Math.exp(event.deltaY / 300), span[0] + pixel / perMinute);
      } else if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) {
        event.preventDefault();
        onMove((event.deltaX || event.deltaY) / perMinute);
      }
    };
    chart.addEventListener("wheel", wheel, { passive: false });
    return () => chart.removeEventListener("wheel", wheel);
  }, []);
  const handlers = {
    onPointerDown: (event: PointerEvent) => {
      if (event.target === ref.current) drag.current = event.clientX;
    },
    onPointerMove: (event: PointerEvent) => {
      if (drag.current === undefined) return;
      onMove((drag.current - event.clientX) / perMinute);
      drag.current = event.clientX;
    },
    onPointerUp: () => {
      drag.current = undefined;
    },
    onPointerLeave: () => {
      drag.current = undefined;
    },
  };
  return { ref, handlers };
}
