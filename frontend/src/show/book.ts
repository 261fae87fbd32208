import { create } from "zustand";
import type { Vec3 } from "../stage/data";
import { fileFor, get, post, putBytes, sendFile } from "./api";
import { at, settings, standsElsewhere, thing, things, useShow, who } from "./document";
import { fetchLookPicture, fetchLookStand, standing } from "./link";
import { exposureOf, looksInOrder, madeOf } from "./looks";
import { notify } from "./messages";
import { usePanes } from "./panes";
import type { ReviewReport } from "./types";

export const BOOK_SIZES = { "540p": [960, 540], "720p": [1280, 720], "1080p": [1920, 1080] } as const;
export const BOOK_QUALITIES = [{ value: "plain", label: "as it is drawn" }, { value: "still", label: "stills of 16 samples" }] as const;
const SAMPLES = 16;

interface BookState {
  /** The looks that are in it, and the viewpoints; null: all. */
  looks: string[] | null;
  views: string[] | null;
  size: keyof typeof BOOK_SIZES;
  quality: (typeof BOOK_QUALITIES)[number]["value"];
  changes: boolean;
  /** Pictures that are being drawn: how many of how many, and what it is at. */
  making: { done: number; of: number; what: string } | null;
  stopping: boolean;
}

/** The look book: what is in it, and the pictures that are on their way. It goes on while other things are done. */
export const useBook = create<BookState>(() => ({ looks: null, views: null, size: "720p", quality: "plain", changes: true, making: null, stopping: false }));
const { getState: now, setState: set } = useBook;

export const looksOfBook = (): string[] => looksInOrder(useShow.getState().objects).map((one) => one.id).filter((id) => now().looks?.includes(id) ?? true);
export const viewsOfBook = (): string[] => things(useShow.getState().objects, "viewpoint").map((one) => one.id).filter((id) => now().views?.includes(id) ?? true);

/** What a picture of the book is made of now. */
function bookMadeOf(look: string, view: string): string {
  const { objects } = useShow.getState();
  const { size, quality } = now();
  const show = settings(objects);
  return `${madeOf(look)}-${objects[view]?.rev ?? 0}-${size}-${quality}-${show.exposure_kind === "camera" || show.exposure_locked ? `${show.exposure_ev} ${show.iso} ${show.shutter_s} ${show.aperture}` : "own"}`;
}

/** The pictures that are still to be drawn. */
export function missingPictures(): [string, string][] {
  const { pictures } = useShow.getState();
  return looksOfBook().flatMap((look) => viewsOfBook().map((view): [string, string] => [look, view])).filter(([look, view]) => pictures[`${look} ${view}`] !== bookMadeOf(look, view));
}

async function draw(look: string, view: string): Promise<void> {
  const { stage, panes } = usePanes.getState();
  const { objects, id } = useShow.getState();
  const [body, place] = [thing(objects, look, "look")?.body, thing(objects, view, "viewpoint")?.body];
  if (!stage || !body || !place) return;
  const of = bookMadeOf(look, view);
  await fetchLookPicture(look);
  const away = standsElsewhere(objects, body);
  if (away) stage.setStand(look, standing(await fetchLookStand(look)));
  try {
    const [width, height] = BOOK_SIZES[now().size];
    const still = now().quality === "still" ? { samples: SAMPLES, stopped: () => now().stopping } : undefined;
    const blob = await stage.pictureFrom(look, { eye: place.eye as Vec3, target: place.target as Vec3 }, width, height, exposureOf(body), { still });
    if (bookMadeOf(look, view) === of) await putBytes(`/api/shows/${id}/looks/${look}/seen?viewpoint=${encodeURIComponent(view)}&made_of=${encodeURIComponent(of)}`, blob);
    useShow.setState({ pictures: { ...useShow.getState().pictures, [`${look} ${view}`]: of } });
  } finally {
    if (away && !panes.some((pane) => pane.picture === look)) stage.setStand(look, null);
  }
}

/** Draw what is missing, one after another, in the background; what is drawn is kept, so it goes on where it was stopped. */
export async function drawBook(): Promise<void> {
  if (now().making) return;
  const missing = missingPictures();
  set({ stopping: false, making: { done: 0, of: missing.length, what: "" } });
  const { objects } = useShow.getState();
  try {
    for (const [i, [look, view]] of missing.entries()) {
      if (now().stopping) break;
      set({ making: { done: i, of: missing.length, what: `look ${thing(objects, look, "look")?.body.number ?? ""} from ${thing(objects, view, "viewpoint")?.body.name ?? ""}` } });
      await draw(look, view);
    }
    const left = missingPictures().length;
    notify(left ? `The book is left off: ${missing.length - left} of ${missing.length} pictures are drawn and kept.` : "All pictures of the book are drawn.");
  } catch (wrong) {
    if (!now().stopping) notify(wrong instanceof Error ? wrong.message : String(wrong), "wrong");
  } finally {
    set({ making: null, stopping: false });
  }
}

/** Save the book as a file, with the pictures that there are. */
export async function saveBook(kind: "html" | "pdf"): Promise<void> {
  try {
    const { blob, name } = await fileFor("/api/shows/{show}/book", { show: useShow.getState().id }, { kind, looks: looksOfBook(), viewpoints: viewsOfBook(), changes: now().changes });
    const link = document.createElement("a");
    link.href = URL.createObjectURL(blob);
    link.download = name || `look book.${kind}`;
    link.click();
    setTimeout(() => URL.revokeObjectURL(link.href), 20_000);
    notify(`Saved ${link.download}, ${(blob.size / 1e6).toFixed(1)} MB.`);
  } catch (wrong) {
    notify(wrong instanceof Error ? wrong.message : String(wrong), "wrong");
  }
}

/** What a file that a reader sent back comes to, or with `take` take it in. */
export const readSent = (file: File, take: boolean) => sendFile("/api/shows/{show}/notes/sent", { show: useShow.getState().id }, file, `?who=${encodeURIComponent(who)}&preview=${!take}`);

export const getReview = (): Promise<ReviewReport> => get("/api/shows/{show}/review", at());
export const closeReview = (): Promise<ReviewReport> => post("/api/shows/{show}/review", at());
