import type { Pane, Vec3, ViewName } from "../stage/data";
import { useShow } from "./document";
import { usePanes } from "./panes";

/** Where the panes of each show are kept: how many, which views, from where they look, how wide; and the bench. */
const KEPT = "zarfwright.panes";
const SHOWS_MOST = 12;
const SAVE_MS = 250;

interface KeptPane extends Pane {
  /** Where it looks from, if it has been looked round in it. */
  from?: { view: ViewName; eye: Vec3; target: Vec3; height: number };
  name?: string;
}

interface Kept {
  panes: KeptPane[];
  benchShown: boolean;
  benchHeight: number;
}

function all(): Record<string, Kept> {
  try {
    return JSON.parse(localStorage.getItem(KEPT) ?? "{}") as Record<string, Kept>;
  } catch {
    return {};
  }
}

/** A pane of a window of its own is what its address says. */
const ownWindow = (): boolean => new URLSearchParams(location.search).has("pane");

function save(): void {
  const { panes, stage, benchShown, benchHeight, viewNames } = usePanes.getState();
  const { id } = useShow.getState();
  if (!id || !stage || ownWindow()) return;
  const kept = panes.map((pane): KeptPane => {
    const { view, eye, target, height } = stage.viewpoint(pane.id);
    return { ...pane, from: { view, eye: eye.toArray(), target: target.toArray(), height }, ...(viewNames[pane.id] ? { name: viewNames[pane.id] } : {}) };
  });
  const latest = Object.entries(all()).filter(([show]) => show !== id).slice(-(SHOWS_MOST - 1));
  localStorage.setItem(KEPT, JSON.stringify({ ...Object.fromEntries(latest), [id]: { panes: kept, benchShown, benchHeight } }));
}

let waiting: ReturnType<typeof setTimeout> | undefined;

/** Something of it has changed: it is kept a moment later, however often it changes. */
export function panesChanged(): void {
  clearTimeout(waiting);
  waiting = setTimeout(save, SAVE_MS);
}

/** Bring the panes of this show back as they were, and keep them from now on; gives what ends that. */
export function keepPanes(): () => void {
  const { stage } = usePanes.getState();
  const kept = ownWindow() ? undefined : all()[useShow.getState().id];
  if (kept && Array.isArray(kept.panes) && kept.panes.length) {
    const { objects } = useShow.getState();
    // A look that is gone has no picture.
    const panes = kept.panes.map(({ id, view, picture, share, shade, labels, walls }): Pane => ({ id, view, picture: objects[picture] ? picture : "live", share, shade, labels, walls }));
    usePanes.setState({ panes, benchShown: kept.benchShown, benchHeight: kept.benchHeight });
    for (const { id, from } of kept.panes) {
      if (!from || !stage) continue;
      const { eye, target } = stage.viewpoint(id);
      stage.setViewpoint(id, { view: from.view, eye: eye.clone().fromArray(from.eye), target: target.clone().fromArray(from.target), height: from.height });
    }
    usePanes.setState({ viewNames: Object.fromEntries(kept.panes.flatMap(({ id, name }) => (name ? [[id, name]] : []))) });
  }
  const stop = usePanes.subscribe((now, before) => {
    if (now.panes !== before.panes || now.benchShown !== before.benchShown || now.benchHeight !== before.benchHeight || now.viewNames !== before.viewNames) panesChanged();
  });
  const leave = (): void => {
    clearTimeout(waiting);
    save();
  };
  window.addEventListener("pagehide", leave);
  return () => {
    stop();
    window.removeEventListener("pagehide", leave);
  };
}
