import { create } from "zustand";
import { get, post } from "./api";
import { at } from "./document";
import { refused } from "./messages";
import type { ConsoleCommand, ConsoleReport } from "./types";

/** The simulated console: whether it runs, and what its screen shows. */
export const useConsole = create<{ console: ConsoleReport | null }>(() => ({ console: null }));

const set = useConsole.setState;

export function hearConsole(report: ConsoleReport): void {
  set({ console: report });
}

export async function readConsole(): Promise<void> {
  set({ console: await get("/api/shows/{show}/console", at()) });
}

/** Press something on the simulated console. */
export async function commandConsole(command: ConsoleCommand): Promise<void> {
  try {
    const report = await post("/api/shows/{show}/console", { ...at(), body: command });
    // What the console tells by itself may have come first: an answer without its screen is older.
    if (report.state || !report.running || !useConsole.getState().console?.running) set({ console: report });
  } catch (wrong) {
    refused(wrong);
  }
}
