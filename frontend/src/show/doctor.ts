import { create } from "zustand";
import { get, post } from "./api";
import { at } from "./document";
import { refused } from "./messages";
import type { DoctorReport } from "./types";

/** The doctor: whether it listens, since when, and what it found last. */
export const useDoctor = create<{ report: DoctorReport | null; since: number }>(() => ({ report: null, since: 0 }));

export function hearDoctor(report: DoctorReport): void {
  const before = useDoctor.getState();
  useDoctor.setState({ report, since: report.listening && !before.report?.listening ? performance.now() : before.since });
}

export async function readDoctor(): Promise<void> {
  hearDoctor(await get("/api/shows/{show}/doctor", at()));
}

/** Let it listen for a while. What it finds comes to every browser. */
export async function askDoctor(seconds = 6): Promise<void> {
  if (useDoctor.getState().report?.listening) return;
  try {
    hearDoctor(await post("/api/shows/{show}/doctor", { ...at(), body: { seconds } }));
  } catch (wrong) {
    refused(wrong);
  }
}
