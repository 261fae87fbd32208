import { setView, usePanes } from "../show/panes";
import type { ViewName } from "../stage/data";

const BY_LETTER: Record<string, ViewName> = { p: "plan", f: "front", b: "back", s: "free", l: "right", r: "left", c: "section" };

/** V, then a letter: the view of the pane under the pointer. */
export function homeView(letter: string): void {
  const view = BY_LETTER[letter];
  if (view) setView(usePanes.getState().active, view);
}
