import { create } from "zustand";
import { post } from "./api";
import { at } from "./document";
import { useShow, who } from "./document";
import { useLink } from "./connection";
import { useSelection } from "./selection";
import type { PresenceEvent } from "./types";

/** What others have selected, by who they are; and the one selection of this browser, in all of its windows. */
export const usePresence = create<{ others: Record<string, { name: string; ids: string[]; at: number }> }>(() => ({ others: {} }));

const NAME = "zarfwright.name";
const GONE_MS = 45_000;
const SAY_MS = 15_000;

export const myName = (): string => localStorage.getItem(NAME) ?? "Somebody";

export function setMyName(name: string): void {
  localStorage.setItem(NAME, name.slice(0, 60));
  say();
}

export function hearPresence(event: PresenceEvent): void {
  if (event.who === who) return;
  // This page's own time: that of the day may be set back.
  const now = performance.now();
  const others = Object.fromEntries(Object.entries(usePresence.getState().others).filter(([key, one]) => key !== event.who && now - one.at < GONE_MS));
  if (event.ids.length) others[event.who] = { name: event.name, ids: event.ids, at: now };
  usePresence.setState({ others });
}

let timer = 0;

function say(): void {
  const { selection } = useSelection.getState();
  if (useShow.getState().id && useLink.getState().connected) {
    void post("/api/shows/{show}/presence", { ...at(), body: { who, name: myName(), ids: selection.slice(0, 500) } }).catch(() => undefined);
  }
}

/** Tell the others and this browser's other windows what is selected, whenever that changes and now and then. */
export function stayPresent(): () => void {
  const channel = new BroadcastChannel("zarfwright");
  let heard = "";
  channel.onmessage = ({ data }: MessageEvent<{ show: string; ids: string[] }>) => {
    if (data.show !== useShow.getState().id) return;
    heard = JSON.stringify(data.ids);
    if (heard !== JSON.stringify(useSelection.getState().selection)) useSelection.setState({ selection: data.ids });
  };
  const changed = () => {
    const ids = useSelection.getState().selection;
    if (JSON.stringify(ids) !== heard) channel.postMessage({ show: useShow.getState().id, ids });
    heard = "";
    window.clearTimeout(timer);
    timer = window.setTimeout(say, 120);
  };
  const stops = [
    useSelection.subscribe((now, before) => now.selection !== before.selection && changed()),
    useLink.subscribe((now, before) => now.connected !== before.connected && changed()),
  ];
  const again = window.setInterval(() => {
    if (useSelection.getState().selection.length) say();
    const kept = Object.entries(usePresence.getState().others).filter(([, one]) => performance.now() - one.at < GONE_MS);
    if (kept.length !== Object.keys(usePresence.getState().others).length) usePresence.setState({ others: Object.fromEntries(kept) });
  }, SAY_MS);
  return () => {
    for (const stop of stops) stop();
    channel.close();
    window.clearInterval(again);
  };
}
