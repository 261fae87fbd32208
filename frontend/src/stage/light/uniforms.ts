import * as THREE from "three";

export const RANGE_M = 60;
const GLARE_REACH = Math.tan(THREE.MathUtils.degToRad(9));
const CLOUD_PX = 32;

/** Lumps for uneven haze: smoothed noise of mean one half that repeats without a seam, the same each time. */
export function clouds(): THREE.Data3DTexture {
  const data = new Uint8Array(CLOUD_PX ** 3);
  let seed = 20260;
  for (let i = 0; i < data.length; i++) {
    seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
    data[i] = seed >>> 24;
  }
  const made = new THREE.Data3DTexture(data, CLOUD_PX, CLOUD_PX, CLOUD_PX);
  made.format = THREE.RedFormat;
  made.minFilter = made.magFilter = THREE.LinearFilter;
  made.wrapS = made.wrapT = made.wrapR = THREE.RepeatWrapping;
  made.needsUpdate = true;
  return made;
}

/** A colour of the theme or the show, `#rrggbb`, as three shares. */
export function srgb(hex: string, into: THREE.Vector3): void {
  into.set(...([1, 3, 5].map((at) => parseInt(hex.slice(at, at + 2), 16) / 255 || 0) as [number, number, number]));
}

/** What all programs of a stage share, by name. */
export function sharedUniforms(): Record<string, THREE.IUniform> {
  const nothing = Object.fromEntries(
    ["uStatic", "uDynamic", "uPrisms", "uGobos", "uWebs", "uClouds", "uAlbedo", "uNormal", "uDistance", "uLight", "uShafts", "uMist", "uBounce", "uShadows", "uShadowMatrices",
      "uPacked", "uPoses", "uBehind", "uThrough", "uVeilDistance", "uVeilLight", "uVeils", "uMask", "uNear", "uFar", "uSplit", "uGoboMeans", "uPatches", "uBoxes", "uGathered", "uBloomed", "uSource", "uBefore", "uShown", "uFigures"].map((name) => [name, { value: null }]),
  );
  const zero = Object.fromEntries(
    ["uTime", "uOrtho", "uHaze", "uUneven", "uWork", "uHouse", "uUnlit", "uLines", "uCount", "uEvery", "uWords", "uSeed", "uUp", "uGlare", "uPatchCount", "uFurther", "uBoxCount", "uAir", "uOnly", "uPixel", "uVeiled", "uCutAt", "uFigureAir"].map((name) => [name, { value: 0 }]),
  );
  const one = Object.fromEntries(
    ["uMix", "uExposure", "uAdapt", "uBloom", "uShine", "uShaftGain", "uPoolGain", "uBodyGain", "uBounceGain", "uOcclusion", "uShare"].map((name) => [name, { value: 1 }]),
  );
  const vectors = Object.fromEntries(["uEye", "uEyeAt", "uForward", "uBeyond", "uSkyLow", "uSkyHigh", "uGround", "uLine", "uFill", "uCutLine"].map((name) => [name, { value: new THREE.Vector3() }]));
  const sizes = Object.fromEntries(["uSize", "uCorner", "uFull", "uSourceTexel", "uTiles"].map((name) => [name, { value: new THREE.Vector2() }]));
  return {
    ...nothing, ...zero, ...one, ...vectors, ...sizes,
    uViewProjection: { value: new THREE.Matrix4() },
    uInverse: { value: new THREE.Matrix4() },
    uWhite: { value: new THREE.Matrix3() },
    uRange: { value: RANGE_M },
    uReach: { value: 0.05 },
    uSteps: { value: 8 },
    uGlareReach: { value: GLARE_REACH },
  };
}
