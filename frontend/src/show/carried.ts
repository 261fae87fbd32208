import { create } from "zustand";
import { isA } from "../kinds";
import type { Carried } from "../stage/scene/carried";
import type { Pose, Quat, Vec3 } from "../stage/data";
import type { CarriedEvent, Row } from "./types";

const NUMBERS = 8;

interface CarriedState {
  plan: number;
  /** What moves together, by the id of its thing, in the order of the poses. */
  groups: readonly string[];
  /** Where each has been brought, by the same ids. */
  poses: ReadonlyMap<string, Pose>;
}

/** What drivers move, and where that is just now. */
export const useCarried = create<CarriedState>()(() => ({ plan: 0, groups: [], poses: new Map() }));

/** Poses go straight from the socket to the stage, as frames do. */
const listeners = new Set<(poses: ReadonlyMap<string, Pose>) => void>();

export function onPoses(listener: (poses: ReadonlyMap<string, Pose>) => void): () => void {
  listeners.add(listener);
  listener(useCarried.getState().poses);
  return () => listeners.delete(listener);
}

export function hearCarried({ plan, groups }: CarriedEvent): void {
  const { poses } = useCarried.getState();
  // Until the first poses by it come, what stays among them stays where it is.
  useCarried.setState({ plan, groups, poses: new Map(groups.flatMap((id) => (poses.has(id) ? [[id, poses.get(id) as Pose]] : []))) });
}

/** Poses of the wire, in the order of the groups. */
export function hearPoses(plan: number, values: Float32Array): void {
  const { plan: now, groups } = useCarried.getState();
  if (plan !== (now & 0xffff)) return;
  const poses = new Map(
    groups.map((id, i): [string, Pose] => {
      const [x, y, z, qx, qy, qz, qw, size] = values.subarray(i * NUMBERS, (i + 1) * NUMBERS) as unknown as [number, number, number, number, number, number, number, number];
      return [id, { position: [x, y, z] as Vec3, rotation: [qx, qy, qz, qw] as Quat, size }];
    }),
  );
  useCarried.setState({ poses });
  for (const listener of listeners) listener(poses);
}

/** Which group each thing goes along with: the nearest of what it is, hangs on or is on. */
export function groupsOf(objects: Record<string, Row>, groups: readonly string[]): Map<string, string> {
  const driven = new Set(groups);
  const known = new Map<string, string | null>();
  const find = (id: string | null | undefined): string | null => {
    const row = id ? objects[id] : undefined;
    if (!row) return null;
    if (driven.has(row.id)) return row.id;
    const found = known.get(row.id);
    if (found !== undefined) return found;
    known.set(row.id, null);
    const hang = row.kind === "fixture" ? row.body.hang?.structure : undefined;
    const on = hang && objects[hang] ? hang : row.kind === "focus point" ? row.body.rides : row.parent;
    const above = find(on);
    known.set(row.id, above);
    return above;
  };
  const found = new Map<string, string>();
  if (!driven.size) return found;
  for (const row of Object.values(objects)) {
    const group = isA(row.kind, "carried") || row.kind === "focus point" ? find(row.id) : null;
    if (group !== null) found.set(row.id, group);
  }
  return found;
}

/** What goes along together, as the stage takes it: solids and clamps by their ids. */
export function membersOf(of: ReadonlyMap<string, string>, solids: Iterable<string>, objects: Record<string, Row>): Map<string, Omit<Carried, "pose">> {
  const found = new Map<string, { solids: string[]; mounts: string[]; marks: string[] }>();
  const into = (group: string) => {
    const known = found.get(group) ?? { solids: [], mounts: [], marks: [] };
    found.set(group, known);
    return known;
  };
  for (const id of solids) {
    const group = of.get(id.split("/")[0] ?? "");
    if (group) into(group).solids.push(id);
  }
  for (const [id, group] of of) {
    const kind = objects[id]?.kind;
    if (kind === "fixture") into(group).mounts.push(id);
    else if (kind !== undefined) into(group).marks.push(id);
  }
  return found;
}
