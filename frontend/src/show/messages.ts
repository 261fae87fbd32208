import { create } from "zustand";
import { Refused } from "./api";

/** A short message at the edge of the screen. */
export interface Notice {
  id: number;
  text: string;
  tone: "done" | "attention" | "wrong";
  at: Date;
}

/** What is on the screen now, and the messages of this visit, newest first: what has gone from the screen can be read again. */
export const useMessages = create<{ notices: Notice[]; said: Notice[] }>(() => ({ notices: [], said: [] }));

const SAID_KEPT = 60;
let noticeCount = 0;

export function notify(text: string, tone: Notice["tone"] = "done"): void {
  const { notices, said } = useMessages.getState();
  const notice = { id: ++noticeCount, text, tone, at: new Date() };
  useMessages.setState({ notices: [...notices.slice(-3), notice], said: [notice, ...said.slice(0, SAID_KEPT - 1)] });
}

export function dismiss(id: number): void {
  useMessages.setState({ notices: useMessages.getState().notices.filter((notice) => notice.id !== id) });
}

/** Say what went wrong; gives the error back for a field to show. */
export function refused(wrong: unknown, quiet = false): Refused {
  const error = wrong instanceof Refused ? wrong : new Refused(String(wrong), null, 0);
  if (!quiet) notify(error.message, "wrong");
  return error;
}
