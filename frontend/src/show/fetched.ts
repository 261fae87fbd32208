import { useEffect, useRef, useState } from "react";
import { useShow } from "./document";

/** What the desk works out of the show, asked for again after each edit; null until it is there, or where nothing is asked. */
export function useFetched<T>(of: string | null, ask: (show: string, of: string) => Promise<T>): T | null {
  const show = useShow((state) => state.id);
  const rev = useShow((state) => state.rev);
  const [found, setFound] = useState<{ of: string; value: T } | null>(null);
  const asked = useRef(ask);
  useEffect(() => {
    let alive = true;
    if (of !== null) void asked.current(show, of).then((value) => alive && setFound({ of, value }), () => undefined);
    return () => {
      alive = false;
    };
  }, [of, show, rev]);
  return found && found.of === of ? found.value : null;
}
