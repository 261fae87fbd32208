import { create } from "zustand";
import type { LabelChoice } from "../stage/data";
import type { Forecast, StepName, Wish } from "../stage/light/quality";
import { post } from "./api";
import { at } from "./document";
import { notify } from "./messages";
import { usePanes } from "./panes";

const KEPT = "zarfwright.picture";

interface PictureState {
  /** The panel of the picture's settings is open in place of the card. */
  open: boolean;
  wish: Wish;
  labels: LabelChoice;
  /** Fixtures whose shadows are always drawn, however faint they are. */
  pinned: string[];
  /** Lux on the face under the pointer, and where that was asked. */
  lux: { value: number; at: [number, number, number] } | null;
  measured: number | null;
  forecasts: Forecast[];
  testing: { share: number; step: StepName } | null;
}

function kept(): { wish: Wish; labels: LabelChoice } {
  const found = JSON.parse(localStorage.getItem(KEPT) ?? "{}") as Partial<{ wish: Wish; labels: LabelChoice }>;
  const address = new URLSearchParams(location.search);
  const asked = address.get("quality");
  const wish: Wish = { step: "auto", fps: 25, cap: 0.75, ...found.wish, rests: address.has("rests") };
  if (asked && ["auto", "Build", "Air", "Pattern", "Depth"].includes(asked)) wish.step = asked as Wish["step"];
  return { wish, labels: { bodies: false, landings: false, ...found.labels } };
}

export const usePicture = create<PictureState>(() => ({ open: false, ...kept(), pinned: [], lux: null, measured: null, forecasts: [], testing: null }));

function keep(): void {
  const { wish, labels } = usePicture.getState();
  localStorage.setItem(KEPT, JSON.stringify({ wish, labels }));
}

/** What this browser asks of the picture: a step or the best that keeps a rate, and the share of the machine it may take. */
export function setWish(part: Partial<Wish>): void {
  usePicture.setState({ wish: { ...usePicture.getState().wish, ...part } });
  keep();
}

export function setLabels(part: Partial<LabelChoice>): void {
  usePicture.setState({ labels: { ...usePicture.getState().labels, ...part } });
  keep();
}

/** Numbers on the picture: none, on bodies, on bodies and where beams land. */
export function nextLabels(): void {
  const { bodies, landings } = usePicture.getState().labels;
  setLabels(!bodies ? { bodies: true, landings: false } : !landings ? { bodies: true, landings: true } : { bodies: false, landings: false });
}

/** Always draw the shadows of these fixtures; of none, the brightest are chosen alone. */
export function pinShadows(pinned: string[]): void {
  usePicture.setState({ pinned });
}

export function togglePicture(): void {
  usePicture.setState({ open: !usePicture.getState().open });
}

export function toggleMeasure(): void {
  usePanes.setState({ tool: usePanes.getState().tool === "measure" ? "select" : "measure" });
}

/** Draw each step a few times and say how fast it goes here. */
export async function runSelfTest(): Promise<void> {
  const { stage } = usePanes.getState();
  if (!stage || usePicture.getState().testing) return;
  usePicture.setState({ testing: { share: 0, step: "Build" }, forecasts: [] });
  try {
    usePicture.setState({ forecasts: await stage.selfTest((share, step) => usePicture.setState({ testing: { share, step } })) });
  } catch (wrong) {
    notify(wrong instanceof Error ? wrong.message : String(wrong), "wrong");
  } finally {
    usePicture.setState({ testing: null });
  }
}

let asking = 0;

/** Ask how bright it is on the face under the pointer, once the pointer rests. */
export function askLux(point: [number, number, number] | null, normal: [number, number, number] | null): void {
  window.clearTimeout(asking);
  if (!point || !normal) return usePicture.setState({ lux: null });
  asking = window.setTimeout(() => {
    post("/api/shows/{show}/lux", { ...at(), body: { point, normal } }).then(
      ({ lux }) => usePicture.setState({ lux: { value: lux, at: point } }),
      () => usePicture.setState({ lux: null }),
    );
  }, 140);
}
