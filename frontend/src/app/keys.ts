import { useEffect, useRef } from "react";
import { leaveShop } from "../shop/state";
import { leaveArrange, setArrange, takeArrange, useArrange } from "../show/arranging";
import { settings, useShow } from "../show/document";
import { leaveDrawing } from "../show/drawing";
import { edit, redo, undo } from "../show/edits";
import { usePanes } from "../show/panes";
import { nextLabels, toggleMeasure, togglePicture } from "../show/picture";
import { letGo } from "../show/put";
import { goTo, select, useSelection } from "../show/selection";
import { STEPS } from "../show/types";
import { homeView } from "./views";

/** The keys of all steps, as `?` lists them. */
export const KEYS: [string, string][] = [
  ["Alt+1 to Alt+8", "Go to a step"],
  ["Ctrl+K", "Find a thing or do a command"],
  ["Ctrl+Z, Ctrl+Shift+Z", "Undo, redo"],
  ["Z", "Frame the selection"],
  ["W", "Work light up or down"],
  ["E", "The picture: quality, exposure, haze"],
  ["L", "Numbers: on bodies, where beams land, none"],
  ["M", "Measure between two places"],
  ["V, then P F B S L R C", "Plan, front, back, stage, from SL, from SR, section"],
  ["B", "Put the bench away, or bring it back"],
  ["Enter, R", "While arranging: take it, the other way round"],
  ["Delete", "Remove what is selected"],
  ["Escape", "Leave the tool, then the selection"],
  ["Drag on the stage", "A box: selects what is inside; with Shift what it touches, with Ctrl added"],
  ["Right drag or Alt+drag", "Look round the place under the pointer"],
  ["Middle drag or Space+drag", "Shift the view"],
  ["Wheel", "Nearer or further, to the pointer"],
  ["?", "These keys"],
];

function typing(target: EventTarget | null): boolean {
  return target instanceof HTMLInputElement || target instanceof HTMLSelectElement || target instanceof HTMLTextAreaElement;
}

/** Work light: up to build by, down to see the show. */
export function toggleWorkLight(): void {
  const now = settings(useShow.getState().objects).work_light_lx;
  void edit("set show", { work_light_lx: now > 1 ? 0 : 40 }).catch(() => undefined);
}

export function removeSelected(): void {
  const ids = useSelection.getState().selection;
  if (ids.length) void edit("remove", { ids }).catch(() => undefined);
}

export function useKeys(open: { find: () => void; help: () => void }): void {
  const view = useRef(false);
  const opens = useRef(open);
  useEffect(() => {
    opens.current = open;
  });
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const ctrl = event.ctrlKey || event.metaKey;
      const key = event.key.toLowerCase();
      if (event.altKey && /^Digit[1-8]$/.test(event.code)) {
        leaveShop();
        goTo(STEPS[Number(event.code.slice(5)) - 1] as (typeof STEPS)[number]);
      } else if (ctrl && key === "k") opens.current.find();
      else if (typing(event.target)) return;
      else if (ctrl && key === "z") void (event.shiftKey ? redo() : undo());
      else if (ctrl || event.altKey) return;
      else if (view.current) {
        view.current = false;
        homeView(key);
      } else if (key === "v") view.current = true;
      else if (key === "z") usePanes.getState().stage?.frameSelection(usePanes.getState().active);
      else if (key === "w") toggleWorkLight();
      else if (key === "e") togglePicture();
      else if (key === "l") nextLabels();
      else if (key === "m") toggleMeasure();
      else if (key === "b") usePanes.setState({ benchShown: !usePanes.getState().benchShown });
      else if (key === "r" && useArrange.getState().on) setArrange({ reverse: !useArrange.getState().args.reverse });
      else if (key === "enter" && useArrange.getState().on) takeArrange();
      else if (key === "delete") removeSelected();
      else if (key === "escape") {
        if (usePanes.getState().tool === "draw") leaveDrawing();
        else if (usePanes.getState().tool === "put") letGo();
        else if (usePanes.getState().tool === "guide") leaveArrange();
        else if (usePanes.getState().tool !== "select") usePanes.setState({ tool: "select" });
        else select([]);
      } else if (key === "?") opens.current.help();
      else return;
      event.preventDefault();
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, []);
}
