import * as THREE from "three";

// Whole floats: a still is a mean of many.
const WHOLE = { type: THREE.FloatType, minFilter: THREE.NearestFilter, magFilter: THREE.NearestFilter, depthBuffer: false } as const;

/** The mean of several pictures of the same view, before the tone curve: each with other jitter, so that air and edges come out smooth. */
export class Mean {
  /** How many pictures are in it. */
  count = 0;
  private now: THREE.WebGLRenderTarget;
  private next: THREE.WebGLRenderTarget;

  constructor(
    readonly width: number,
    readonly height: number,
  ) {
    this.now = new THREE.WebGLRenderTarget(width, height, WHOLE);
    this.next = new THREE.WebGLRenderTarget(width, height, WHOLE);
  }

  /** The mean so far. */
  get shown(): THREE.WebGLRenderTarget {
    return this.now;
  }

  /** Take in a picture; `mix` makes the weighted mean of it and what was there. */
  add(picture: THREE.WebGLRenderTarget, mix: (picture: THREE.WebGLRenderTarget, before: THREE.WebGLRenderTarget, to: THREE.WebGLRenderTarget, share: number) => void): void {
    this.count += 1;
    mix(picture, this.now, this.next, 1 / this.count);
    [this.now, this.next] = [this.next, this.now];
  }

  dispose(): void {
    this.now.dispose();
    this.next.dispose();
  }
}

/** Radical inverses: points that fill a square evenly however many are taken. */
function inverse(i: number, base: number): number {
  let value = 0;
  for (let f = 1 / base, n = i; n > 0; f /= base, n = Math.floor(n / base)) value += f * (n % base);
  return value;
}

/** Shift a camera by a part of a pixel, another one for each sample. */
export function shifted(camera: THREE.PerspectiveCamera | THREE.OrthographicCamera, sample: number, width: number, height: number): void {
  camera.setViewOffset(width, height, inverse(sample + 1, 2) - 0.5, inverse(sample + 1, 3) - 0.5, width, height);
  camera.updateProjectionMatrix();
}
