import { create } from "zustand";
import { get, post } from "./api";
import { at, useShow } from "./document";
import { refused } from "./messages";
import type { ConsoleCommand, ConsolePatch, ConsoleStart, SimulatedReport } from "./types";

/** The simulated consoles: which run, what their screens show, and the patch of the one that is looked at. */
export const useSimulated = create<{ report: SimulatedReport | null; patch: { key: string; patched: number; rows: ConsolePatch["rows"] } | null; levels: Record<string, number[]> }>(() => ({ report: null, patch: null, levels: {} }));

const of = (key: string) => ({ params: { path: { show: useShow.getState().id, key } } });

export function hearSimulated(report: SimulatedReport): void {
  useSimulated.setState({ report });
}

export function hearSimulatedLevels({ key, levels }: { key: string; levels: number[] }): void {
  useSimulated.setState({ levels: { ...useSimulated.getState().levels, [key]: levels } });
}

export async function readSimulated(): Promise<void> {
  hearSimulated(await get("/api/shows/{show}/simulated", at()));
}

/** Start one; gives its key. */
export async function startSimulated(how: Partial<ConsoleStart> = {}): Promise<string | null> {
  try {
    return (await post("/api/shows/{show}/simulated", { ...at(), body: { name: "", patch: true, sacn: "all", artnet: "", priority: 100, version: "1.6", ...how } })).key;
  } catch (wrong) {
    refused(wrong);
    return null;
  }
}

/** Press something on one. */
export async function press(key: string, command: ConsoleCommand): Promise<void> {
  try {
    hearSimulated(await post("/api/shows/{show}/simulated/{key}", { ...of(key), body: command }));
  } catch (wrong) {
    refused(wrong);
  }
}

/** Read a console's patch, as it was the `patched`th time it changed. */
export async function readPatch(key: string, patched: number): Promise<void> {
  try {
    const { rows, levels } = await get("/api/shows/{show}/simulated/{key}", of(key));
    useSimulated.setState({ patch: { key, patched, rows }, levels: { ...useSimulated.getState().levels, [key]: levels } });
  } catch (wrong) {
    refused(wrong);
  }
}
