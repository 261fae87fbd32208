import * as THREE from "three";

const MIDDLE_GREY = 0.18;
const ADAPT_S = 0.9;
const RANGE = 2 ** 8;

/** The eye: adapts to the log mean of what is lit, or keeps the correction that it has. */
export class Eye {
  /** What the set exposure is multiplied by. */
  adapt = 1;
  private wanted = 1;
  private asking = false;
  private at = 0;

  /** Look at the darkest level of the bloom's pyramid, small enough to be read back; the answer comes a frame later. */
  look(renderer: THREE.WebGLRenderer, level: THREE.WebGLRenderTarget): void {
    if (this.asking) return;
    this.asking = true;
    const data = new Uint16Array(level.width * level.height * 4);
    renderer
      .readRenderTargetPixelsAsync(level, 0, 0, level.width, level.height, data)
      .then(() => {
        this.wanted = wantedFor(data, this.wanted);
      })
      .catch(() => undefined)
      .finally(() => {
        this.asking = false;
      });
  }

  /** Let time pass. Returns whether it is still adapting. */
  tick(now: number, adapts: boolean, held: boolean): boolean {
    const seconds = Math.min((now - this.at) / 1000, 0.5);
    this.at = now;
    if (!adapts) {
      this.adapt = this.wanted = 1;
      return false;
    }
    if (held) return false;
    const away = Math.log2(this.wanted / this.adapt);
    if (Math.abs(away) < 0.02) return false;
    this.adapt *= 2 ** (away * (1 - Math.exp(-seconds / ADAPT_S)));
    return true;
  }

  /** The EV that the eye has come to, from the one that is set. */
  ev(set: number): number {
    return set - Math.log2(this.adapt);
  }
}

/** The correction that shows the log mean of what is lit (half floats, RGBA, exposed) as middle grey. */
export function wantedFor(data: Uint16Array, before: number): number {
  let sum = 0;
  let count = 0;
  for (let i = 0; i < data.length; i += 4) {
    const [r, g, b] = [0, 1, 2].map((c) => THREE.DataUtils.fromHalfFloat(data[i + c] as number)) as [number, number, number];
    const luminance = 0.2127 * r + 0.7152 * g + 0.0722 * b;
    if (luminance < 1e-4) continue;
    sum += Math.log2(luminance);
    count += 1;
  }
  if (!count) return before;
  return Math.min(Math.max(MIDDLE_GREY / 2 ** (sum / count), 1 / RANGE), RANGE);
}
