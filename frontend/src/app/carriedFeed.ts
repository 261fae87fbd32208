import { useEffect, useMemo } from "react";
import { groupsOf, membersOf, onPoses, useCarried } from "../show/carried";
import { useShow } from "../show/document";
import { usePanes } from "../show/panes";

/** Gives the stage where drivers have brought what they move, with every frame that says so. */
export function useCarriedFeed(): void {
  const stage = usePanes((state) => state.stage);
  const objects = useShow((state) => state.objects);
  const scene = useShow((state) => state.scene);
  const mounts = useShow((state) => state.mounts);
  const groups = useCarried((state) => state.groups);
  const members = useMemo(() => membersOf(groupsOf(objects, groups), Object.keys(scene), objects), [objects, groups, scene]);
  useEffect(
    () =>
      onPoses((poses) =>
        stage?.setCarried(
          [...members].flatMap(([group, what]) => {
            const pose = poses.get(group);
            return pose ? [{ ...what, pose }] : [];
          }),
        ),
      ),
    // What is drawn anew is at rest, and is brought along again.
    [stage, members, scene, mounts],
  );
}
