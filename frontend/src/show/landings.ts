import { useEffect, useState } from "react";
import { get } from "./api";
import { useShow } from "./document";
import type { Landing } from "./types";

const ASK_MS = 1000;
const LX_PER_FC = 10.764;

/** Illuminance in the unit of the show. */
export const lightText = (lux: number, system: string): string => (system === "imperial" ? `${Math.round(lux / LX_PER_FC)} fc` : `${Math.round(lux)} lx`);

/** Where the lit beams land, of some fixtures or of all: asked again while they may move. */
export function useLandings(ids: readonly string[] | null): Landing[] {
  const show = useShow((state) => state.id);
  const [landings, setLandings] = useState<Landing[]>([]);
  const wanted = ids?.join() ?? "";
  const all = ids === null;
  useEffect(() => {
    let alive = true;
    let timer = 0;
    const ask = () => {
      const begun = performance.now();
      get("/api/shows/{show}/landings", { params: { path: { show } } })
        .then((found) => {
          const some = new Set(wanted.split(","));
          if (alive) setLandings(all ? found : found.filter((one) => some.has(one.fixture)));
        })
        .catch(() => undefined)
        .finally(() => {
          // A large rig takes its time: it is not asked all the while.
          if (alive) timer = window.setTimeout(ask, Math.max(ASK_MS, 4 * (performance.now() - begun)));
        });
    };
    ask();
    return () => {
      alive = false;
      window.clearTimeout(timer);
    };
  }, [show, wanted, all]);
  return landings;
}
