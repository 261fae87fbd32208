import { create } from "zustand";

/** How the patch is looked at: all universes, one of them (`universe`; null: the first), as a list, or its dimmers. */
export type View = "universes" | "one" | "list" | "dimmers";
export const usePatchView = create<{ view: View; universe: number | null; /** Dimmers as they are typed: those last clicked. */ dimmers: string }>(() => ({ view: "universes", universe: null, dimmers: "" }));

export const seePatch = (view: View): void => usePatchView.setState({ view });
