import type { Steps } from "../steps";
import type { TiledLight } from "../tiles";
import type { Frame, LightPass } from "./pass";

/** The light of all beams where they land, tile by tile of the picture (light/tiles.ts). */
export class Pools implements LightPass {
  readonly onto = "surfaces";

  constructor(private readonly tiled: TiledLight) {}

  on({ count }: Frame): boolean {
    return count > 0;
  }

  steps({ targets, count, parts }: Frame): Steps {
    return this.tiled.steps(targets, count, parts);
  }

  dispose(): void {
    this.tiled.dispose();
  }
}
