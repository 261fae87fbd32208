import { create } from "zustand";
import { get, post, putBytes, sendFile } from "./api";
import { at, settings, things, useShow, who } from "./document";
import { refused } from "./messages";
import type { LookDiff, LookSays, LooksTaken, OrderTimes, PictureEvent, Row, SettlingReport, Thing } from "./types";

/** What the Looks step shows: its order, steps, look, and whether a look is edited blind. */
export const useLooks = create<{ view: "run" | "looks"; order: string; steps: string[]; look: string; blind: string; against: string }>(() => ({ view: "run", order: "", steps: [], look: "", blind: "", against: "" }));

export const SORTS = ["intensity", "colour", "position", "beam"] as const;
export type Sort = (typeof SORTS)[number];

/** The looks by their numbers. */
export function looksInOrder(objects: Record<string, Row>): Thing<"look">[] {
  return [...things(objects, "look")].sort((a, b) => a.body.number - b.body.number);
}

/** As sentences and lists name it. */
export const lookName = (look: Thing<"look"> | undefined): string => (look ? `${look.body.number}, ${look.body.name}` : "a look that is gone");

/** The running order that is worked on: the one chosen, else the one played, else the first. */
export function orderShown(objects: Record<string, Row>, chosen: string, playing: string | null | undefined): Thing<"order"> | undefined {
  const orders = things(objects, "order");
  return orders.find((one) => one.id === chosen) ?? orders.find((one) => one.id === playing) ?? orders[0];
}

/** The looks that follow a palette or a focus point, by their numbers: `1, 4.5`; none: nothing. */
export function looksWith(objects: Record<string, Row>, link: string): string {
  return looksInOrder(objects).filter((look) => link in (look.body.links ?? {})).map((look) => look.body.number).join(", ");
}

// Pictures

/** What the picture of a look would be made of now. */
export function madeOf(look: string): string {
  const { stand, looks } = useShow.getState();
  return `${stand}-${looks[look]?.prints ?? ""}`;
}

/** Where the picture of a look is to be had; none: nobody has drawn it. `stale`: it is of how things were before. */
export function pictureOf(look: string, state: { id: string; stand: string; looks: Record<string, { prints: string }>; pictures: Record<string, string> }): { url: string; stale: boolean } | null {
  const of = state.pictures[look];
  if (!of) return null;
  return { url: `/api/shows/${state.id}/looks/${look}/picture?made_of=${encodeURIComponent(of)}`, stale: of !== `${state.stand}-${state.looks[look]?.prints ?? ""}` };
}

/** The looks whose pictures are of how things were before, by their numbers. */
export const stalePictures = (state: Parameters<typeof pictureOf>[1] & { objects: Record<string, Row> }): string[] =>
  looksInOrder(state.objects).map((look) => look.id).filter((id) => pictureOf(id, state)?.stale);

/** How a look is exposed, where it says anything of that: as it would be recalled. */
export function exposureOf(look: Thing<"look">["body"]) {
  const { camera, objects } = useShow.getState();
  const show = settings(objects);
  const ev = show.exposure_kind === "eye" && !show.exposure_locked ? look.exposure_ev : null;
  return {
    ...(camera && ev != null && { ev, shownPerCd: camera.shown_per_cd * 2 ** (camera.ev100 - ev) }),
    ...(look.haze_per_m != null && { hazePerM: look.haze_per_m }),
    ...(look.house_light_lx != null && { houseLightLx: look.house_light_lx }),
  };
}

export function hearPicture({ look, made_of }: PictureEvent): void {
  useShow.setState({ pictures: { ...useShow.getState().pictures, [look]: made_of } });
}

/** Keep a picture of a look that was drawn of how things were then. */
export async function keepPicture(look: string, of: string, picture: Blob): Promise<void> {
  await putBytes(`/api/shows/${useShow.getState().id}/looks/${look}/picture?made_of=${encodeURIComponent(of)}`, picture);
  hearPicture({ event: "picture", look, made_of: of });
}

/** Read a list of looks: looked at first, taken in when `take` says so. */
export async function takeLooks(file: File, take: boolean): Promise<LooksTaken> {
  try {
    return await sendFile("/api/shows/{show}/looks", { show: useShow.getState().id }, file, `?who=${encodeURIComponent(who)}&preview=${!take}`);
  } catch (wrong) {
    throw refused(wrong, true);
  }
}

// Kept each time it settles

export const useSettling = create<{ report: SettlingReport }>(() => ({ report: { on: false, kept: [], doubles: [], problem: "" } }));

export function hearSettling(report: SettlingReport): void {
  useSettling.setState({ report });
}

export async function readSettling(): Promise<void> {
  hearSettling(await get("/api/shows/{show}/settling", at()));
}

/** Begin to keep a look each time the picture settles, or end. */
export async function turnSettling(on: boolean): Promise<void> {
  try {
    hearSettling(await post("/api/shows/{show}/settling", { ...at(), body: { on, who } }));
  } catch (wrong) {
    refused(wrong);
  }
}

// What looks say

const of = (thing: string) => ({ params: { path: { show: useShow.getState().id, thing } } });

export const fetchSays = (look: string): Promise<LookSays> => get("/api/shows/{show}/looks/{thing}/says", of(look));
export const fetchTimes = (order: string): Promise<OrderTimes> => get("/api/shows/{show}/orders/{thing}/times", of(order));

/** What of another look, or of what is seen, is unlike this one. */
export async function fetchDiff(look: string, to: string): Promise<LookDiff> {
  try {
    return await get("/api/shows/{show}/looks/{thing}/diff", { params: { path: { show: useShow.getState().id, thing: look }, query: { to } } });
  } catch (wrong) {
    throw refused(wrong);
  }
}
