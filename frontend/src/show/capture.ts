import { create } from "zustand";
import { get, post, sendFile } from "./api";
import { at } from "./document";
import { refused } from "./messages";
import type { CaptureReport } from "./types";

/** Recordings of what comes in: whether one is made or sent again, since when, and the one there is. */
export const useCapture = create<{ report: CaptureReport | null; since: number }>(() => ({ report: null, since: 0 }));

export function hearCapture(report: CaptureReport): void {
  const before = useCapture.getState();
  useCapture.setState({ report, since: report.state === before.report?.state ? before.since : performance.now() });
}

export async function readCapture(): Promise<void> {
  hearCapture(await get("/api/shows/{show}/capture", at()));
}

type Command = { do: "record" | "keep" | "replay" | "stop"; seconds?: number };

export async function commandCapture(command: Command): Promise<void> {
  try {
    hearCapture(await post("/api/shows/{show}/capture", { ...at(), body: { seconds: 10, ...command } }));
  } catch (wrong) {
    refused(wrong);
  }
}

/** Bring a recording from a file: what it holds is told before anything is sent. */
export async function bringRecording(file: File): Promise<void> {
  try {
    hearCapture(await sendFile("/api/shows/{show}/recordings", { show: at().params.path.show }, file));
  } catch (wrong) {
    refused(wrong);
  }
}
