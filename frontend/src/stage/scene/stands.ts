import type { Quat, Solid, Vec3 } from "../data";
import type { BeamState } from "./beams";
import type { Solids } from "./solids";

/** What stands elsewhere in one picture: a look keeps its carriers where they were, with all that is on them. */
export interface Stand {
  solids: readonly Solid[];
  mounts: readonly { id: string; position: Vec3; rotation: Quat }[];
}

/** Where things stand in each picture. They stand as they are but while a picture is drawn or looked into. */
export class Stands {
  private readonly kept = new Map<string, Stand & { number: number }>();
  private made = 0;
  private taken = "";

  constructor(
    private readonly beams: BeamState,
    private readonly solids: Solids,
  ) {}

  /** Say how things stand in a picture; null: as they are. Returns whether that is news. */
  set(picture: string, stand: Stand | null): boolean {
    const before = this.kept.get(picture);
    if (!stand) return this.kept.delete(picture);
    if (before && JSON.stringify([before.solids, before.mounts]) === JSON.stringify([stand.solids, stand.mounts])) return false;
    this.made += 1;
    this.kept.set(picture, { ...stand, number: this.made });
    return true;
  }

  /** Let things stand as a picture has them. Returns what they stood as before, to go back to. */
  take(picture: string): string {
    const before = this.taken;
    const stand = this.kept.get(picture);
    this.taken = stand ? picture : "";
    this.beams.stand(stand?.number ?? 0, stand?.mounts ?? []);
    this.solids.stand(stand?.number ?? 0, stand?.solids ?? []);
    return before;
  }

  /** Do something with things standing as a picture has them. */
  within<T>(picture: string, work: () => T): T {
    const before = this.take(picture);
    try {
      return work();
    } finally {
      this.take(before);
    }
  }
}
