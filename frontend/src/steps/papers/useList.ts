import { useEffect, useState } from "react";
import { get } from "../../show/api";
import { useShow } from "../../show/document";
import { refused } from "../../show/messages";
import { listPath } from "../../show/papers";
import type { ScheduleOut } from "../../show/types";

const SOON_MS = 150;

/** A schedule as it is now; asked for again when something in the show changes. */
export function useList(name: string): ScheduleOut | null {
  const objects = useShow((state) => state.objects);
  const [list, setList] = useState<ScheduleOut | null>(null);
  useEffect(() => {
    let here = true;
    const ask = () => void get("/api/shows/{show}/schedules/{name}", listPath(name)).then((found) => here && setList(found), (wrong: unknown) => here && refused(wrong));
    const timer = setTimeout(ask, list?.name === name ? SOON_MS : 0);
    return () => {
      here = false;
      clearTimeout(timer);
    };
    // What was there before only says how soon.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [name, objects]);
  return list?.name === name ? list : null;
}
