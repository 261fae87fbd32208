import * as THREE from "three";
import { TILE_PX } from "./material";

const BLOOM_LEVELS = 6;

/** What a pane of one size is drawn through. */
export interface Targets {
  width: number;
  height: number;
  surface: THREE.WebGLRenderTarget;
  /** Of each tile: where its surfaces lie, and which beams reach them (tiles.ts). */
  bounds: THREE.WebGLRenderTarget;
  bits: THREE.WebGLRenderTarget;
  light: THREE.WebGLRenderTarget;
  /** Shafts with something in their gate, at half the size; smooth ones, at a quarter. */
  shafts: THREE.WebGLRenderTarget;
  haze: THREE.WebGLRenderTarget;
  bounce: THREE.WebGLRenderTarget;
  gathered: THREE.WebGLRenderTarget;
  bloom: THREE.WebGLRenderTarget[];
  shown: THREE.WebGLRenderTarget;
  /** Further ones of the same make, for who needs them, and what was made so. */
  like: { surface: () => THREE.WebGLRenderTarget; light: () => THREE.WebGLRenderTarget };
  more: THREE.WebGLRenderTarget[];
}

export const NEAREST = { minFilter: THREE.NearestFilter, magFilter: THREE.NearestFilter } as const;
export const NO_DEPTH = { ...NEAREST, depthBuffer: false } as const;
const BITS = { ...NEAREST, format: THREE.RGBAIntegerFormat, type: THREE.UnsignedIntType, internalFormat: "RGBA32UI", depthBuffer: false, generateMipmaps: false } as const;
const LINEAR = { minFilter: THREE.LinearFilter, magFilter: THREE.LinearFilter } as const;

function half(width: number, height: number, filter: typeof NEAREST | typeof LINEAR): THREE.WebGLRenderTarget {
  return new THREE.WebGLRenderTarget(Math.max(1, width), Math.max(1, height), { ...filter, type: THREE.HalfFloatType, depthBuffer: false });
}

function surfaces(width: number, height: number, depth: { depthTexture: THREE.DepthTexture } | null): THREE.WebGLRenderTarget {
  const made = new THREE.WebGLRenderTarget(width, height, { count: 3, ...NEAREST, ...depth });
  const [, normal, distance] = made.textures as [THREE.Texture, THREE.Texture, THREE.Texture];
  normal.type = THREE.HalfFloatType;
  distance.type = THREE.FloatType;
  distance.format = THREE.RedFormat;
  return made;
}

function make(width: number, height: number): Targets {
  const depth = new THREE.DepthTexture(width, height, THREE.FloatType);
  const surface = surfaces(width, height, { depthTexture: depth });
  const across = Math.ceil(width / TILE_PX);
  const up = Math.ceil(height / TILE_PX);
  const bloom = Array.from({ length: BLOOM_LEVELS }, (_, i) => half(width >> (i + 1), height >> (i + 1), LINEAR));
  return {
    width, height, surface, bloom,
    bounds: new THREE.WebGLRenderTarget(across, up, { ...NEAREST, count: 3, type: THREE.FloatType, depthBuffer: false }),
    bits: new THREE.WebGLRenderTarget(across, up * 2, { ...BITS, count: 3 }),
    light: new THREE.WebGLRenderTarget(width, height, { ...NEAREST, type: THREE.HalfFloatType, depthTexture: depth }),
    shafts: half(width >> 1, height >> 1, NEAREST),
    haze: half(width >> 2, height >> 2, NEAREST),
    bounce: half(width >> 2, height >> 2, NEAREST),
    gathered: half(width, height, LINEAR),
    shown: new THREE.WebGLRenderTarget(width, height, { ...LINEAR, depthBuffer: false }),
    like: { surface: () => surfaces(width, height, null), light: () => half(width, height, NEAREST) },
    more: [],
  };
}

/** Targets by size; a few sizes are kept, the one used longest ago goes first. */
export class TargetStore {
  private readonly kept = new Map<string, Targets>();

  get(width: number, height: number): Targets {
    const key = `${width}x${height}`;
    const found = this.kept.get(key) ?? make(width, height);
    this.kept.delete(key);
    this.kept.set(key, found);
    for (const [old, targets] of this.kept) {
      if (this.kept.size <= 4) break;
      this.free(targets);
      this.kept.delete(old);
    }
    return found;
  }

  private free(targets: Targets): void {
    for (const one of [targets.surface, targets.bounds, targets.bits, targets.light, targets.shafts, targets.haze, targets.bounce, targets.gathered, targets.shown, ...targets.bloom, ...targets.more]) one.dispose();
  }

  dispose(): void {
    for (const targets of this.kept.values()) this.free(targets);
    this.kept.clear();
  }
}
