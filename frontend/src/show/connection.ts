import { create } from "zustand";
import type { PatchEvent, SignalEvent } from "./types";

/** The live socket: whether it is open, what comes in, and the levels that are watched. */
export const useLink = create<{ connected: boolean; patch: PatchEvent | null; signal: SignalEvent | null; watching: number | null; monitors: boolean; levels: Uint8Array | null }>(() => ({
  connected: false, patch: null, signal: null, watching: null, monitors: false, levels: null,
}));
