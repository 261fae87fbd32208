import { useEffect } from "react";
import { carry, carryOver, leaveCarried, takeCarried, type Target, useCarried } from "../../show/carrying";
import { useShow } from "../../show/document";
import { select, useSelection } from "../../show/selection";
import { usePatchView } from "./view";

const MOVED_PX = 4;

/** What is at a place of the screen that fixtures can be put on: a dimmer, a cell of the map, or a place along a strip. */
export function targetAt(x: number, y: number): Target | null {
  const dimmer = document.elementFromPoint(x, y)?.closest<HTMLElement>("[data-dimmer]")?.dataset.dimmer;
  return dimmer ? { dimmer: Number(dimmer) } : slotAt(x, y);
}

/** Which slot of which universe is there. */
export function slotAt(x: number, y: number): { universe: number; slot: number } | null {
  const on = document.elementFromPoint(x, y);
  const strip = on?.closest<HTMLElement>("[data-strip]");
  if (strip) {
    const { left, width } = strip.getBoundingClientRect();
    return { universe: Number(strip.dataset.strip), slot: Math.min(Math.max(Math.floor(((x - left) / width) * 512) + 1, 1), 512) };
  }
  const cell = on?.closest<HTMLElement>("[data-slot]");
  const universe = Number(cell?.closest<HTMLElement>("[data-universe]")?.dataset.universe);
  return cell && universe ? { universe, slot: Number(cell.dataset.slot) } : null;
}

/** While fixtures are carried, the ghost follows the pointer: a click, or the end of a drag, puts them. */
export function useCarrying(): void {
  const carried = useCarried((state) => state.ids.length > 0);
  useEffect(() => {
    if (!carried) return;
    const over = (event: PointerEvent) => {
      const at = targetAt(event.clientX, event.clientY);
      if (at) carryOver(at);
    };
    const up = (event: PointerEvent) => {
      if (!useCarried.getState().dragged) return;
      if (targetAt(event.clientX, event.clientY)) void takeCarried();
      else leaveCarried();
    };
    const press = (event: PointerEvent) => {
      if (useCarried.getState().dragged || !targetAt(event.clientX, event.clientY)) return;
      event.preventDefault();
      event.stopPropagation();
      over(event);
      void takeCarried();
    };
    window.addEventListener("pointermove", over);
    window.addEventListener("pointerup", up);
    window.addEventListener("pointerdown", press, true);
    return () => {
      window.removeEventListener("pointermove", over);
      window.removeEventListener("pointerup", up);
      window.removeEventListener("pointerdown", press, true);
    };
  }, [carried]);
}

/** Drag fixtures: with the selection where it is of it. */
function takeUp(fixtures: string[]): void {
  const { objects } = useShow.getState();
  const chosen = useSelection.getState().selection.filter((id) => objects[id]?.kind === "fixture");
  const ids = fixtures.some((id) => chosen.includes(id)) ? chosen : fixtures;
  select(ids);
  carry(ids, true);
}

/** A thing of the stage is dragged (null: let go). Fixtures are carried to a map, where one is open. */
export function dragOffStage(id: string | null): boolean {
  if (id === null) {
    leaveCarried();
    return false;
  }
  const map = useSelection.getState().step === "patch" && usePatchView.getState().view !== "list";
  if (!map || useShow.getState().objects[id]?.kind !== "fixture" || useCarried.getState().ids.length) return false;
  takeUp([id]);
  return true;
}

/** Begin to drag what is pressed once the pointer moves: with the selection where it is of it. */
export function pressToDrag(event: React.PointerEvent, fixtures: string[]): void {
  if (event.button !== 0 || !fixtures.length || useCarried.getState().ids.length) return;
  const [x, y] = [event.clientX, event.clientY];
  const move = (moved: PointerEvent) => {
    if (Math.hypot(moved.clientX - x, moved.clientY - y) < MOVED_PX) return;
    end();
    takeUp(fixtures);
  };
  const end = () => {
    window.removeEventListener("pointermove", move);
    window.removeEventListener("pointerup", end);
  };
  window.addEventListener("pointermove", move);
  window.addEventListener("pointerup", end);
}
