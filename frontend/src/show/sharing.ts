import { useEffect } from "react";
import { create } from "zustand";
import { get, post, putBytes } from "./api";
import { at, thing, useShow, who } from "./document";
import { notify } from "./messages";
import { usePanes } from "./panes";
import type { SharingReport } from "./types";

const NOBODY: SharingReport = { on: false, presenter: "", notes: false, links: [], qr: "", guests: [] };
/** Whether guests look on from other devices, and who they are. */
export const useSharing = create<{ report: SharingReport }>(() => ({ report: NOBODY }));

const LOOK_MS = 3000;
const SHOW_MS = 600;
const WIDE_PX = 1280;

export async function readSharing(): Promise<void> {
  useSharing.setState({ report: await get("/api/shows/{show}/sharing", at()) });
}

/** Let guests in, with a new key, or put them all out. */
export async function share(on: boolean, notes: boolean): Promise<void> {
  try {
    useSharing.setState({ report: await post("/api/shows/{show}/sharing", { ...at(), body: { on, who, notes } }) });
  } catch (wrong) {
    notify(wrong instanceof Error ? wrong.message : String(wrong), "wrong");
  }
}

/** The free pane as it is on screen, with what is drawn over it; null where there is none. */
function shown(): { blob: Promise<Blob | null>; of: string; look: string; viewpoint: string } | null {
  const { stage, panes, viewNames } = usePanes.getState();
  const pane = stage?.layout().find((one) => one.pane.view === "free");
  const [picture, over] = document.querySelectorAll<HTMLCanvasElement>("main canvas");
  if (!stage || !pane || !picture || !over || pane.width < 2) return null;
  const { objects } = useShow.getState();
  const playing = thing(objects, "show", "show")?.body.playing ?? "";
  const look = pane.pane.picture === "live" ? playing : pane.pane.picture;
  const of = `${stage.drawing?.frames ?? 0} ${stage.asked} ${look} ${panes.length} ${pane.width}`;
  const share = Math.min(1, WIDE_PX / pane.width);
  const canvas = new OffscreenCanvas(Math.round(pane.width * share), Math.round(pane.height * share));
  const pen = canvas.getContext("2d") as OffscreenCanvasRenderingContext2D;
  for (const layer of [picture, over]) {
    const ratio = layer.width / layer.clientWidth;
    pen.drawImage(layer, pane.left * ratio, pane.top * ratio, pane.width * ratio, pane.height * ratio, 0, 0, canvas.width, canvas.height);
  }
  return { blob: canvas.convertToBlob({ type: "image/jpeg", quality: 0.82 }), of, look, viewpoint: viewNames[pane.pane.id] ?? "" };
}

/** As long as this browser presents, guests see what its free pane shows. */
export function usePresenting(): void {
  const id = useShow((state) => state.id);
  const on = useSharing(({ report }) => report.on);
  const presents = useSharing(({ report }) => report.on && (report.presenter === who || report.presenter === ""));
  useEffect(() => void (id && readSharing().catch(() => undefined)), [id]);
  useEffect(() => {
    if (!on) return undefined;
    const timer = window.setInterval(() => void readSharing().catch(() => undefined), LOOK_MS);
    return () => window.clearInterval(timer);
  }, [on]);
  useEffect(() => {
    if (!presents) return undefined;
    let last = "";
    let busy = false;
    const timer = window.setInterval(() => {
      const now = busy ? null : shown();
      if (!now || now.of === last) return;
      busy = true;
      void now.blob
        .then((blob) => blob && putBytes(`/api/shows/${id}/sharing/shown?who=${encodeURIComponent(who)}&look=${encodeURIComponent(now.look)}&viewpoint=${encodeURIComponent(now.viewpoint)}`, blob))
        .then(() => (last = now.of), () => undefined)
        .finally(() => (busy = false));
    }, SHOW_MS);
    return () => window.clearInterval(timer);
  }, [presents, id]);
}
