import { useEffect } from "react";
import { standsElsewhere, thing, useShow } from "./document";
import { fetchLookPicture, fetchLookStand, standing } from "./link";
import { exposureOf, keepPicture, looksInOrder, madeOf } from "./looks";
import { usePanes } from "./panes";
import { useRun } from "./run";

/** So long nobody has done anything before a picture is drawn. */
const IDLE_MS = 2500;
const [WIDTH, HEIGHT] = [256, 144];
/** From the house, where nobody has said from where. */
const HOUSE: { eye: [number, number, number]; target: [number, number, number] } = { eye: [0, -16, 3.2], target: [0, 2, 2.6] };

/** The look whose picture is to be drawn next: first those that have none. */
function nextLook(): string | null {
  const { objects, pictures } = useShow.getState();
  const looks = looksInOrder(objects).map((look) => look.id);
  return looks.find((look) => !pictures[look]) ?? looks.find((look) => pictures[look] !== madeOf(look)) ?? null;
}

async function draw(id: string): Promise<void> {
  const { stage, panes } = usePanes.getState();
  const { objects } = useShow.getState();
  const of = madeOf(id);
  const look = thing(objects, id, "look");
  if (!stage || !look) return;
  const point = thing(objects, look.body.viewpoint, "viewpoint");
  await fetchLookPicture(id);
  const away = standsElsewhere(objects, look.body);
  if (away) stage.setStand(id, standing(await fetchLookStand(id)));
  try {
    const picture = await stage.pictureFrom(id, (point?.body ?? HOUSE) as typeof HOUSE, WIDTH, HEIGHT, exposureOf(look.body));
    if (madeOf(id) === of) await keepPicture(id, of, picture);
  } finally {
    if (away && !panes.some((pane) => pane.picture === id)) stage.setStand(id, null);
  }
}

/** Draws the pictures of looks while nobody does anything else: those that are missing, then those that are stale. */
export function usePictures(): void {
  useEffect(() => {
    let last = performance.now();
    let busy = false;
    const failed = new Set<string>();
    const touched = () => (last = performance.now());
    const idle = () => performance.now() - last > IDLE_MS && document.visibilityState === "visible" && !useRun.getState().run.playing;
    const timer = window.setInterval(() => {
      const look = busy || !idle() ? null : nextLook();
      if (!look || failed.has(madeOf(look))) return;
      busy = true;
      void draw(look)
        .catch(() => failed.add(madeOf(look)))
        .finally(() => (busy = false));
    }, 300);
    const events = ["pointermove", "pointerdown", "keydown", "wheel"] as const;
    for (const event of events) window.addEventListener(event, touched, { passive: true });
    return () => {
      window.clearInterval(timer);
      for (const event of events) window.removeEventListener(event, touched);
    };
  }, []);
}
