import { create } from "zustand";
import type { Step } from "./types";

/** What is selected, in the order in which it was, and the step that one is at. */
export const useSelection = create<{ selection: string[]; step: Step }>(() => ({ selection: [], step: "site" }));

const set = useSelection.setState;

export function select(ids: string[], add = false): void {
  const now = useSelection.getState().selection;
  if (!add) return set({ selection: ids });
  // Adding what is there already takes it away.
  const kept = now.filter((id) => !ids.includes(id));
  set({ selection: [...kept, ...ids.filter((id) => !now.includes(id))] });
}

/** Let go of what is no longer there. */
export function keepSelected(there: (id: string) => boolean): void {
  const now = useSelection.getState().selection;
  const kept = now.filter(there);
  if (kept.length !== now.length) set({ selection: kept });
}

export function goTo(to: Step): void {
  set({ step: to });
}
