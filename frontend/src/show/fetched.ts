import { useEffect, useState } from "react";
import { getJson } from "./api";
import { useShow } from "./store";

/** What the desk works out of the show, asked for again after each edit; null until it is there, or where nothing is asked. */
export function useFetched<T>(of: string | null): T | null {
  const show = useShow((state) => state.id);
  const rev = useShow((state) => state.rev);
  const [found, setFound] = useState<{ of: string; value: T } | null>(null);
  useEffect(() => {
    let alive = true;
    if (of !== null) void getJson<T>(`/api/shows/${show}/${of}`).then((value) => alive && setFound({ of, value }), () => undefined);
    return () => {
      alive = false;
    };
  }, [of, show, rev]);
  return found && found.of === of ? found.value : null;
}
