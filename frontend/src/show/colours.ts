import { useEffect, useState } from "react";
import { post } from "./api";
import { at, useShow } from "./document";
import type { ColoursOut } from "./types";

const NOTHING: ColoursOut = { kinds: [], now: null };

/** What a selection makes colour with, and what its first shows now; asked again when one of them changes. */
export function useColours(ids: readonly string[]): ColoursOut {
  const objects = useShow((state) => state.objects);
  const text = ids.map((id) => `${id}:${objects[id]?.rev ?? ""}`).join();
  const [found, setFound] = useState<ColoursOut>(NOTHING);
  useEffect(() => {
    let alive = true;
    const wanted = text.split(",").map((one) => one.split(":")[0] ?? "");
    if (text) void post("/api/shows/{show}/colours", { ...at(), body: { ids: wanted } }).then((answer) => alive && setFound(answer), () => undefined);
    return () => {
      alive = false;
    };
  }, [text]);
  return ids.length ? found : NOTHING;
}
