import { useMemo } from "react";
import { get } from "../../show/api";
import { things, useShow } from "../../show/document";
import { useFetched } from "../../show/fetched";
import type { Vec3 } from "../../stage/data";

/** A place to look from: a seat of the house, or a viewpoint. */
export interface Seen {
  id: string;
  name: string;
  group: string;
  eye: Vec3;
  target: Vec3;
}

const NONE: Seen[] = [];

/** The seats of the house. */
export function useSeats(): Seen[] {
  return (useFetched("seats", (show) => get("/api/shows/{show}/seats", { params: { path: { show } } })) as Seen[] | null) ?? NONE;
}

/** The viewpoints that have names. */
export function useViewpoints(): Seen[] {
  const objects = useShow((state) => state.objects);
  return useMemo(() => things(objects, "viewpoint").map(({ id, body }) => ({ id, name: body.name, group: "viewpoint", eye: body.eye as Vec3, target: body.target as Vec3 })), [objects]);
}
