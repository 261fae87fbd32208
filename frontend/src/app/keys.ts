import { useEffect, useRef } from "react";
import type { Tool } from "../stage/data";
import { belongsTo, enterForm } from "../kit/focus";
import { leaveShop } from "../shop/state";
import { leaveArrange, setArrange, takeArrange, useArrange } from "../show/arranging";
import { leaveCompared, useCompare } from "../show/compare";
import { leaveDrawn, useDrawn } from "../show/notes";
import { carrySelected, leaveCarried, takeCarried, useCarried } from "../show/carrying";
import { settings, things, useShow } from "../show/document";
import { leaveDrawing, takeBack, useDrawing } from "../show/drawing";
import { edit, leaveGhost, redo, undo, useGhost } from "../show/edits";
import { nextWalls, usePanes, WALLS_SAID } from "../show/panes";
import { notify } from "../show/messages";
import { toggleTool } from "../show/cutting";
import { leavePath, takePath } from "../show/paths";
import { beginAim, HEIGHTS, leaveAim, setAbove } from "../show/pointing";
import { nudgePicked, leavePicked, removePicked, usePapers } from "../show/papers";
import { nextLabels, toggleMeasure, togglePicture } from "../show/picture";
import { letGo } from "../show/put";
import { orderShown, useLooks } from "../show/looks";
import { type Asks, leaveAsk, nextLook, type ReviewView, seeReview, toggleAsk } from "../show/review";
import { commandRun, useRun } from "../show/run";
import { goTo, select, useSelection } from "../show/selection";
import { type Step, STEPS } from "../show/types";
import { tapMarker } from "../steps/looks/Transport";
import { homeView } from "./views";

interface Binding {
  /** As they are written: `Ctrl+Shift+Z`, `Delete`, `?`. */
  keys: string[];
  /** What the list of keys says; none: it is said with another, or with its tool. */
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

/** Bright enough to build by, with nothing else lit. */
const WORK_LX = 250;

/** What the work light was before it was put up here. */
let dimLx = 0;

/** Work light: up to build by, down to what it was, to see the show. */
export function toggleWorkLight(): void {
  const now = settings(useShow.getState().objects).work_light_lx;
  const up = now <= WORK_LX / 3;
  if (up) dimLx = now;
  void edit("set show", { work_light_lx: up ? WORK_LX : dimLx }).catch(() => undefined);
}

export function removeSelected(): void {
  const ids = useSelection.getState().selection;
  if (ids.length) void edit("remove", { ids }).catch(() => undefined);
}

/** Let go of what is held by hand: of the selection, or of all. */
export function releaseHeld(all: boolean): void {
  const { objects } = useShow.getState();
  const held = things(objects, "fixture").filter((one) => Object.keys(one.body.hands ?? {}).length + Object.keys(one.body.cells ?? {}).length > 0).map((one) => one.id);
  const chosen = useSelection.getState().selection.filter((id) => objects[id]?.kind === "fixture");
  const ids = all ? held : chosen;
  if (ids.length) void edit("release", { ids }).catch(() => undefined);
  else if (all) notify("Nothing is held by hand.");
}

/** One more of what is selected, a little further stage left. */
export function duplicateSelected(): void {
  const ids = useSelection.getState().selection;
  if (ids.length) void edit("duplicate", { ids, count: "1", x: settings(useShow.getState().objects).system === "imperial" ? "3'" : "1m", y: "0", z: "0" }, { select: true }).catch(() => undefined);
}

/** The next of what is left out of the pane under the pointer because it stands in the way, and say which. */
export function nextLookIn(): void {
  notify(WALLS_SAID[nextWalls(usePanes.getState().active)]);
}

/** How each tool is left; the others are by taking the one that selects. */
const LEAVE: Partial<Record<Tool, () => void>> = { draw: leaveDrawing, put: letGo, aim: leaveAim, path: leavePath, guide: leaveArrange, ask: leaveAsk, select: () => select([]) };

function leaveTool(): void {
  const { tool } = usePanes.getState();
  if (carrying()) return leaveCarried();
  if (atPapers() && leavePicked()) return;
  // What lies over the stage goes first.
  if (useDrawn.getState().url) return leaveDrawn();
  if (useCompare.getState().shown) return leaveCompared();
  // What is drawn of something that is not taken goes first.
  if ((tool === "select" || tool === "measure" || tool === "aim") && useGhost.getState().ghost) return leaveGhost();
  const leave = LEAVE[tool];
  if (leave) leave();
  else usePanes.setState({ tool: "select" });
}

const arranging = (): boolean => useArrange.getState().on;
const aiming = (): boolean => usePanes.getState().tool === "aim";
const fixtureSelected = (): boolean => useSelection.getState().selection.some((id) => useShow.getState().objects[id]?.kind === "fixture");
const hasFixtures = (): boolean => useSelection.getState().step === "aim" && fixtureSelected();
const atLooks = (): boolean => useSelection.getState().step === "looks";
const order = () => orderShown(useShow.getState().objects, useLooks.getState().order, settings(useShow.getState().objects).running);
const hasOrder = (): boolean => atLooks() && order() !== undefined;

/** Play the running order that is shown, or let it stand. */
export function playOrPause(): void {
  const { run } = useRun.getState();
  const shown = order();
  if (!shown) return;
  if (run.order === shown.id && run.playing && !run.waiting) commandRun("pause");
  else void (run.order === shown.id ? Promise.resolve() : edit("play order", { id: shown.id })).then(() => commandRun("play"), () => undefined);
}

const atPapers = (): boolean => useSelection.getState().step === "papers" && usePapers.getState().view === "sheets";
const pickedOnSheet = (): boolean => atPapers() && usePapers.getState().picked !== null;
const NUDGES: readonly (readonly [string, number, number])[] = [["ArrowLeft", -1, 0], ["ArrowRight", 1, 0], ["ArrowUp", 0, 1], ["ArrowDown", 0, -1]];
const atReview = (): boolean => useSelection.getState().step === "review";
function askIn(view: ReviewView, asks: Asks): void {
  seeReview(view);
  toggleAsk(asks);
}

function tap(): void {
  const shown = order();
  if (shown) tapMarker(shown);
}

const carrying = (): boolean => useCarried.getState().ids.length > 0;
const drawing = (): boolean => useDrawing.getState().finish !== null;
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
  { keys: ["I"], says: "Look in: near walls of rooms out, all walls in front out, all there", act: nextLookIn },
  { keys: ["M"], says: "Measure between two places", act: toggleMeasure },
  ...VIEWS.map((view): Binding => ({ keys: [`${FIRST} ${view}`], act: () => homeView(view.toLowerCase()) })),
  { keys: ["B"], says: "Put the bench away, or bring it back", act: () => usePanes.setState({ benchShown: !usePanes.getState().benchShown }) },
  { keys: ["Enter"], when: arranging, act: takeArrange },
  { keys: ["Enter"], when: carrying, act: () => void takeCarried() },
  { keys: ["P"], when: () => useSelection.getState().step === "patch" && (carrying() || fixtureSelected()), act: () => (carrying() ? leaveCarried() : carrySelected()) },
  { keys: ["Enter"], when: drawing, act: () => useDrawing.getState().finish?.() },
  ...HEIGHTS.map(([, above], i): Binding => ({ keys: [String(i + 1)], when: aiming, act: () => setAbove(above) })),
  { keys: ["K"], when: hasFixtures, act: () => toggleTool("cut") },
  { keys: ["G"], when: hasFixtures, act: () => toggleTool("blades") },
  { keys: ["Enter"], when: () => usePanes.getState().tool === "path", act: takePath },
  { keys: ["A"], when: hasFixtures, act: () => (aiming() ? leaveAim() : beginAim()) },
  { keys: ["X"], when: hasFixtures, act: () => releaseHeld(false) },
  { keys: ["Shift+X"], when: () => useSelection.getState().step === "aim", act: () => releaseHeld(true) },
  { keys: ["P"], when: hasOrder, act: playOrPause },
  { keys: ["N"], when: hasOrder, act: () => commandRun("next") },
  { keys: ["T"], when: () => hasOrder() && useRun.getState().run.order === order()?.id, act: tap },
  { keys: ["Shift+N"], when: hasOrder, act: () => commandRun("back") },
  { keys: ["N"], when: atReview, act: () => void nextLook(1).catch(() => undefined) },
  { keys: ["Shift+N"], when: atReview, act: () => void nextLook(-1).catch(() => undefined) },
  { keys: ["S"], when: atReview, act: () => askIn("house", "sight") },
  { keys: ["H"], when: atReview, act: () => askIn("light", "light") },
  ...NUDGES.flatMap(([key, x, y]): Binding[] => [
    { keys: [key], when: pickedOnSheet, act: () => nudgePicked(x, y) },
    { keys: [`Shift+${key}`], when: pickedOnSheet, act: () => nudgePicked(x * 10, y * 10) },
  ]),
  { keys: ["Delete"], when: pickedOnSheet, act: removePicked },
  { keys: ["Backspace"], when: drawing, act: takeBack },
  { keys: ["R"], when: arranging, act: () => setArrange({ reverse: !useArrange.getState().args.reverse }) },
  { keys: ["Ctrl+D"], says: "Duplicate what is selected", act: duplicateSelected },
  { keys: ["Delete"], says: "Remove what is selected", act: removeSelected },
  { keys: ["Escape"], says: "Leave the tool, then the selection", act: leaveTool },
  { keys: ["?"], says: "These keys", act: (opens) => opens.help() },
];

interface KeyGroup {
  title: string;
  /** The steps that it is of; none: every step. */
  steps?: readonly Step[];
  keys: readonly (readonly [string, string])[];
}

const said = (...names: string[]): [string, string][] => BINDINGS.flatMap((one): [string, string][] => (one.says && names.includes(one.keys[0] ?? "") ? [[one.keys.join(", "), one.says]] : []));

/** The keys of all steps, as `?` lists them: those of tools with the steps that have them. */
export const KEYS: readonly KeyGroup[] = [
  { title: "Drawing an outline", steps: ["site"], keys: [["Enter", "Close it; once it is closed, add it"], ["Backspace", "Take the last corner back"], ["Shift, Ctrl", "Straight; without snapping"]] },
  { title: "Arranging", steps: ["site", "hang"], keys: [["Enter", "Arrange them"], ["R", "The other way round"], ["Escape", "Leave them where they are"]] },
  { title: "Putting by pointing", steps: ["hang"], keys: [["Click", "Put one there"], ["Ctrl", "Not in steps of 5 cm"], ["Escape", "Let go of it"]] },
  { title: "Patching", steps: ["patch"], keys: [["P", "Carry the selection to a slot of the map, or leave it"], ["Drag", "Fixtures from a slot or the shelf to another slot"], ["Enter, click", "Put them as the ghost shows"], ["Escape", "Leave them where they are"]] },
  { title: "Aiming", steps: ["aim"], keys: [["A", "Take the selection to the pointer, or leave it there"], ["Click", "Aim at that place, or at that focus point"], ["1, 2, 3", "As high as the floor, a waist, a face"], ["G", "Blades and barn doors on the lit surface: drag them"], ["K", "Cut to an edge of the set: click it"], ["X, Shift+X", "Let go of what is held by hand: of the selection, of all"], ["Enter", "Take the way that is drawn for somebody who walks"], ["Escape", "Leave them there"]] },
  { title: "Running order", steps: ["looks"], keys: [["P", "Play, let it stand, go on from where it waits"], ["N, Shift+N", "On to the next step, back to the one before"], ["T", "Mark this moment, as the music goes"], ["Left, Right", "Of an edge or the ruler: half a second; Shift: five"], ["Ctrl+wheel", "More or less of it at once"], ["Double click", "Stand where all of that step has come"]] },
  { title: "Reviewing", steps: ["review"], keys: [["N, Shift+N", "Recall the next look, the one before"], ["S", "Who sees a place: click it"], ["H", "Who lights a place: click it"], ["Left, Right", "On the line of a wipe: move it"], ["Escape", "Put away what is compared or drawn on, then the tool"]] },
  { title: "A sheet", steps: ["papers"], keys: [["Drag", "A view, a label or words to another place"], ["Arrows, Shift+arrows", "Move what is picked by 1 mm, by 10 mm"], ["Delete", "Take it off; a label goes where there is room"], ["Wheel", "Nearer and further; drag beside the views to move the sheet"], ["Escape", "Leave what is in hand, then what is picked"]] },
  { title: "Tables", steps: ["site", "hang", "aim", "patch", "review"], keys: [["Up, Down", "Go from row to row; Shift takes all between"], ["Home, End", "The first row, the last"], ["Enter, Space", "Select the row"], ["F2, or a number", "Type in the cell that was clicked on"], ["Ctrl+V", "Paste a table from that cell on"]] },
  { title: "Every step", keys: [["Alt+1 to Alt+8", "Go to a step"], ...said("Ctrl+K"), ["Ctrl+Z, Ctrl+Shift+Z", "Undo, redo"], ...said("Ctrl+D", "Delete", "Escape", "B", "?")] },
  { title: "The picture", keys: [...said("Z", "W", "E", "L", "I", "M"), [`${FIRST}, then ${VIEWS.join(" ")}`, "Plan, front, back, stage, from SL, from SR, section"]] },
  { title: "The pointer on the picture", keys: [["Drag", "A box: selects what is inside; Shift: what it touches, Ctrl: added"], ["Right drag, Alt+drag", "Look round the place under the pointer"], ["Middle drag, Space+drag", "Shift the view"], ["Wheel", "Nearer or further, to the pointer, and through a wall"], ["Shift+wheel in a section", "Move the cut"]] },
];

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
      // A control has done what it means there.
      if (event.defaultPrevented) return;
      // Shift alone, while it is held for what comes.
      if (["Shift", "Control", "Alt", "Meta"].includes(event.key)) return;
      const now = written(event);
      const own = belongsTo(event.target, now);
      const found = bound(now, own ? "" : before, own) ?? (before ? bound(now, "", own) : null);
      before = !own && now === FIRST && !before ? FIRST : "";
      const entered = !found && !own && now === "Enter" && enterForm(event.target);
      // What nobody here does is the browser's: Enter in a field of a form, for instance.
      if (!found && !before && !entered) return;
      if (now === "Escape" && event.target instanceof HTMLElement) event.target.blur();
      found?.act(opens.current);
      event.preventDefault();
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, []);
}
