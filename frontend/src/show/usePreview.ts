import { useEffect, useState } from "react";
import { leaveGhost, preview } from "./edits";
import type { EditArgs, EditResult } from "./types";

interface Seen {
  /** What it would come to; null until that is known, or where it is refused. */
  result: EditResult | null;
  wrong: string;
}
const NOTHING: Seen = { result: null, wrong: "" };

/** What an edit would come to, as a ghost on the stage that follows its arguments; null arguments: none. */
export function usePreview<K extends keyof EditArgs>(kind: K, args: EditArgs[K] | null, note: string | ((result: EditResult) => string) = "", numbered = false): Seen {
  const text = args === null ? "" : `${kind} ${JSON.stringify(args)}`;
  const [seen, setSeen] = useState<Seen & { of: string }>({ ...NOTHING, of: "" });
  useEffect(() => {
    if (args === null) return;
    let alive = true;
    void preview(kind, args, note, numbered).then(
      (result) => alive && result && setSeen({ of: text, result, wrong: "" }),
      (error: unknown) => alive && setSeen({ of: text, result: null, wrong: error instanceof Error ? error.message : String(error) }),
    );
    return () => {
      alive = false;
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- the text is the arguments
  }, [text]);
  const on = args !== null;
  // The ghost goes when nothing is asked any more, not between one value and the next.
  useEffect(() => (on ? leaveGhost : undefined), [on]);
  return seen.of === text ? seen : NOTHING;
}
