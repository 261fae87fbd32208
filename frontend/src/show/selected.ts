import { thing, useShow } from "./document";
import { useSelection } from "./selection";
import type { Kind, Thing } from "./types";

/** The one thing that is selected, where it is one of that kind. */
export function useOnly<K extends Kind>(kind: K): Thing<K> | undefined {
  const only = useSelection((state) => (state.selection.length === 1 ? state.selection[0] : undefined));
  return useShow((state) => thing(state.objects, only, kind));
}
