import { type RefObject, useEffect, useRef } from "react";

/** How long after the last notch a value that was turned by the wheel is taken. */
const REST_MS = 160;

/**
 * The wheel over a field that has the focus changes its value by notches: ten at once with Shift, a tenth with Ctrl.
 * Elsewhere the wheel scrolls. Several notches are one change.
 */
export function useWheel(box: RefObject<HTMLElement | null>, here: boolean, onNotches: ((notches: number) => void) | undefined): void {
  const take = useRef(onNotches);
  useEffect(() => {
    take.current = onNotches;
  });
  const able = onNotches !== undefined;
  useEffect(() => {
    const element = box.current;
    if (!element || !here || !able) return;
    let [notches, timer] = [0, 0];
    const flush = () => {
      if (notches) take.current?.(Number(notches.toFixed(3)));
      notches = 0;
    };
    const turn = (event: WheelEvent) => {
      event.preventDefault();
      event.stopPropagation();
      const way = Math.sign(-(event.deltaY || event.deltaX));
      notches += way * (event.shiftKey ? 10 : event.ctrlKey ? 0.1 : 1);
      window.clearTimeout(timer);
      timer = window.setTimeout(flush, REST_MS);
    };
    // React listens passively: it could not keep the card from scrolling.
    element.addEventListener("wheel", turn, { passive: false });
    return () => {
      element.removeEventListener("wheel", turn);
      window.clearTimeout(timer);
      flush();
    };
  }, [box, here, able]);
}
