import { create } from "zustand";
import { postJson } from "./api";
import { useShow, who } from "./store";
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
  const now = Date.now();
  const others = Object.fromEntries(Object.entries(usePresence.getState().others).filter(([key, one]) => key !== event.who && now - one.at < GONE_MS));
  if (event.ids.length) others[event.who] = { name: event.name, ids: event.ids, at: now };
  usePresence.setState({ others });
}

let timer = 0;

function say(): void {
  const { id, selection, connected } = useShow.getState();
  if (id && connected) void postJson(`/api/shows/${id}/presence`, { who, name: myName(), ids: selection.slice(0, 500) }).catch(() => undefined);
}

/** Tell the others and this browser's other windows what is selected, whenever that changes and now and then. */
export function stayPresent(): () => void {
  const channel = new BroadcastChannel("zarfwright");
  let heard = "";
  channel.onmessage = ({ data }: MessageEvent<{ show: string; ids: string[] }>) => {
    if (data.show !== useShow.getState().id) return;
    heard = JSON.stringify(data.ids);
    if (heard !== JSON.stringify(useShow.getState().selection)) useShow.setState({ selection: data.ids });
  };
  const stop = useShow.subscribe((now, before) => {
    if (now.selection === before.selection && now.connected === before.connected) return;
    if (JSON.stringify(now.selection) !== heard) channel.postMessage({ show: now.id, ids: now.selection });
    heard = "";
    window.clearTimeout(timer);
    timer = window.setTimeout(say, 120);
  });
  const again = window.setInterval(() => {
    if (useShow.getState().selection.length) say();
    const kept = Object.entries(usePresence.getState().others).filter(([, one]) => Date.now() - one.at < GONE_MS);
    if (kept.length !== Object.keys(usePresence.getState().others).length) usePresence.setState({ others: Object.fromEntries(kept) });
  }, SAY_MS);
  return () => {
    stop();
    channel.close();
    window.clearInterval(again);
  };
}
