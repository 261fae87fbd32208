import { useEffect } from "react";
import { thing, useShow } from "../../show/document";
import { fetchLookPicture } from "../../show/link";
import { keepPicture, looksInOrder, madeOf } from "../../show/looks";
import { usePanes } from "../../show/panes";
import { useRun } from "../../show/run";

/** So long nobody has done anything before a picture is drawn. */
const IDLE_MS = 2500;
const [WIDTH, HEIGHT] = [256, 144];
/** From the house, where nobody has said from where. */
const HOUSE: [number, number, number][] = [[0, -16, 3.2], [0, 2, 2.6]];

/** The look whose picture is to be drawn next: first those that have none. */
function nextLook(): string | null {
  const { objects, pictures } = useShow.getState();
  const looks = looksInOrder(objects).map((look) => look.id);
  return looks.find((look) => !pictures[look]) ?? looks.find((look) => pictures[look] !== madeOf(look)) ?? null;
}

async function draw(look: string): Promise<void> {
  const { stage } = usePanes.getState();
  const { objects } = useShow.getState();
  const of = madeOf(look);
  const point = thing(objects, thing(objects, look, "look")?.body.viewpoint, "viewpoint");
  const [eye, target] = point ? [point.body.eye, point.body.target] : HOUSE;
  if (!stage || !eye || !target) return;
  await fetchLookPicture(look);
  const picture = await stage.pictureFrom(look, eye as [number, number, number], target as [number, number, number], WIDTH, HEIGHT);
  if (madeOf(look) === of) await keepPicture(look, of, picture);
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
