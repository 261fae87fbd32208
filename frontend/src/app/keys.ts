import { useEffect, useRef } from "react";
import type { Tool } from "../stage/data";
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

interface Binding {
  /** As they are written: `Ctrl+Shift+Z`, `Delete`, `?`. */
  keys: string[];
  /** What the list of keys says; none: it is said with another. */
  says?: string;
  act: (opens: Opens) => void;
  /** Only while that is so; else the key does nothing here. */
  when?: () => boolean;
  /** Also while something is typed. */
  always?: boolean;
}

interface Opens {
  find: () => void;
  help: () => void;
}

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

/** How each tool is left; the others are by taking the one that selects. */
const LEAVE: Partial<Record<Tool, () => void>> = { draw: leaveDrawing, put: letGo, guide: leaveArrange, select: () => select([]) };

function leaveTool(): void {
  const { tool } = usePanes.getState();
  const leave = LEAVE[tool];
  if (leave) leave();
  else usePanes.setState({ tool: "select" });
}

const arranging = (): boolean => useArrange.getState().on;
const VIEWS = ["P", "F", "B", "S", "L", "R", "C"];
const FIRST = "V";

const BINDINGS: Binding[] = [
  ...STEPS.map((step, i): Binding => ({ keys: [`Alt+${i + 1}`], always: true, act: () => { leaveShop(); goTo(step); } })),
  { keys: ["Ctrl+K"], says: "Find a thing or do a command", always: true, act: (opens) => opens.find() },
  { keys: ["Ctrl+Z"], act: () => void undo() },
  { keys: ["Ctrl+Shift+Z"], act: () => void redo() },
  { keys: ["Z"], says: "Frame the selection", act: () => usePanes.getState().stage?.frameSelection(usePanes.getState().active) },
  { keys: ["W"], says: "Work light up or down", act: toggleWorkLight },
  { keys: ["E"], says: "The picture: quality, exposure, haze", act: togglePicture },
  { keys: ["L"], says: "Numbers: on bodies, where beams land, none", act: nextLabels },
  { keys: ["M"], says: "Measure between two places", act: toggleMeasure },
  ...VIEWS.map((view): Binding => ({ keys: [`${FIRST} ${view}`], act: () => homeView(view.toLowerCase()) })),
  { keys: ["B"], says: "Put the bench away, or bring it back", act: () => usePanes.setState({ benchShown: !usePanes.getState().benchShown }) },
  { keys: ["Enter"], when: arranging, act: takeArrange },
  { keys: ["R"], when: arranging, act: () => setArrange({ reverse: !useArrange.getState().args.reverse }) },
  { keys: ["Delete"], says: "Remove what is selected", act: removeSelected },
  { keys: ["Escape"], says: "Leave the tool, then the selection", act: leaveTool },
  { keys: ["?"], says: "These keys", act: (opens) => opens.help() },
];

/** What is done with several keys, or with the pointer, in the words of the list. */
const MORE: [string, string][] = [
  ["Alt+1 to Alt+8", "Go to a step"],
  ["Ctrl+Z, Ctrl+Shift+Z", "Undo, redo"],
  [`${FIRST}, then ${VIEWS.join(" ")}`, "Plan, front, back, stage, from SL, from SR, section"],
  ["Enter, R", "While arranging: take it, the other way round"],
  ["Drag on the stage", "A box: selects what is inside; with Shift what it touches, with Ctrl added"],
  ["Right drag or Alt+drag", "Look round the place under the pointer"],
  ["Middle drag or Space+drag", "Shift the view"],
  ["Wheel", "Nearer or further, to the pointer"],
];

/** The keys of all steps, as `?` lists them. */
export const KEYS: [string, string][] = [...MORE.slice(0, 1), ...BINDINGS.flatMap((one): [string, string][] => (one.says ? [[one.keys.join(", "), one.says]] : [])), ...MORE.slice(1)];

/** A press as bindings write it. Digits are those of the keyboard's row, whatever Alt makes of them. */
export function written(event: Pick<KeyboardEvent, "key" | "code" | "altKey" | "ctrlKey" | "metaKey" | "shiftKey">): string {
  const digit = /^Digit(\d)$/.exec(event.code)?.[1];
  const key = event.altKey && digit ? digit : event.key.length === 1 ? event.key.toUpperCase() : event.key;
  const letter = /^[A-Z]$/.test(key);
  return [event.ctrlKey || event.metaKey ? "Ctrl" : "", event.altKey ? "Alt" : "", event.shiftKey && letter ? "Shift" : "", key].filter(Boolean).join("+");
}

/** What a press does, after the one before it (`V`); null: nothing here. */
export function bound(press: string, before: string, whileTyping: boolean): Binding | null {
  const both = before ? `${before} ${press}` : press;
  return BINDINGS.find((one) => one.keys.includes(both) && (one.always || !whileTyping) && (one.when?.() ?? true)) ?? null;
}

export function useKeys(open: Opens): void {
  const opens = useRef(open);
  useEffect(() => {
    opens.current = open;
  });
  useEffect(() => {
    let before = "";
    const press = (event: KeyboardEvent) => {
      const busy = typing(event.target);
      const now = written(event);
      // Shift alone, while it is held for what comes.
      if (["Shift", "Control", "Alt", "Meta"].includes(event.key)) return;
      const found = bound(now, busy ? "" : before, busy) ?? (before ? bound(now, "", busy) : null);
      before = !busy && now === FIRST && !before ? FIRST : "";
      if (!found && !before) return;
      found?.act(opens.current);
      event.preventDefault();
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, []);
}
