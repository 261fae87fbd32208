import * as THREE from "three";
import type { DeferredLight } from "./deferred";
import { Mean, shifted } from "./mean";
import { all } from "./steps";
import type { PaneShot } from "./pipeline";
import { QUALITIES } from "./quality";

const SAMPLES = 32;
export interface StillOptions {
  width: number;
  height: number;
  samples?: number;
  onProgress?: (share: number) => void;
  stopped?: () => boolean;
  /** Told the luminance of each pixel, cd/m2, rows from the top. */
  luminance?: (cd: Float32Array) => void;
}

/** Wait until the graphics processor has done what it was asked, leaving the page free meanwhile. */
export function finished(renderer: THREE.WebGLRenderer): Promise<void> {
  const gl = renderer.getContext() as WebGL2RenderingContext;
  const fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0);
  gl.flush();
  return new Promise((resolve) => {
    const look = () => {
      if (!fence || gl.isContextLost() || gl.getSyncParameter(fence, gl.SYNC_STATUS) === gl.SIGNALED) {
        if (fence) gl.deleteSync(fence);
        resolve();
      } else setTimeout(look, 4);
    };
    look();
  });
}

/**
 * The final picture: many samples, each shifted by part of a pixel, with other jitter in the air and the lights shifted
 * over their lenses, so that edges, shafts and shadows come out soft. Rows come from the top.
 */
export async function makeStill(
  renderer: THREE.WebGLRenderer, light: DeferredLight, shot: Omit<PaneShot, "x" | "y" | "width" | "height" | "target" | "quality">, options: StillOptions,
): Promise<Blob> {
  const { width, height } = options;
  const samples = options.samples ?? SAMPLES;
  const mean = new Mean(width, height);
  const out = new THREE.WebGLRenderTarget(width, height, { depthBuffer: false });
  const camera = shot.camera.clone() as PaneShot["camera"];
  const full: PaneShot = { ...shot, camera, x: 0, y: 0, width, height, target: out, quality: QUALITIES.Still };
  try {
    for (let i = 0; i < samples; i++) {
      if (options.stopped?.()) throw new Error("The still was stopped; nothing was saved.");
      shifted(camera, i, width, height);
      const turn = i * 2.399963;
      const reach = samples > 1 ? Math.sqrt((i + 0.5) / samples) : 0;
      light.seed(i);
      light.shadows.update(shot.picture, 0, QUALITIES.Still.shadows, QUALITIES.Still.shadows, samples > 1 ? [reach * Math.cos(turn), reach * Math.sin(turn)] : [0, 0]);
      // Tiles are as they should be now: drawn again in the sample they would lose their shift.
      const targets = light.drawLight({ ...full, atRest: false, quality: { ...full.quality, tilesAFrame: -1 } });
      light.addTo(mean, targets);
      await finished(renderer);
      options.onProgress?.((i + 1) / samples);
    }
    camera.clearViewOffset();
    all(light.developer.develop(full, light.targetsOf(full), mean.shown));
    const pixels = new Uint8Array(width * height * 4);
    renderer.readRenderTargetPixels(out, 0, 0, width, height, pixels);
    return await png(pixels, width, height);
  } finally {
    light.seed(0);
    light.shadows.forget();
    mean.dispose();
    out.dispose();
  }
}

/** Pixels with rows from below, as WebGL counts them, as PNG. */
export function png(pixels: Uint8Array, width: number, height: number): Promise<Blob> {
  const canvas = new OffscreenCanvas(width, height);
  const image = new ImageData(width, height);
  for (let row = 0; row < height; row++) {
    image.data.set(pixels.subarray((height - 1 - row) * width * 4, (height - row) * width * 4), row * width * 4);
  }
  (canvas.getContext("2d") as OffscreenCanvasRenderingContext2D).putImageData(image, 0, 0);
  return canvas.convertToBlob({ type: "image/png" });
}
