import * as THREE from "three";

const SIZE = 256;
const MEANS = 256;
const WEB_ROWS = 128;
const WEB_COLUMNS = 64;

/** Layers of one texture by key, fetched once each. Layer 0 stands for none; one that is still coming is like it. */
abstract class LayerStore<Data extends Uint8Array | Uint16Array> {
  texture: THREE.DataArrayTexture;
  private keys: string[] = [];
  private readonly kept = new Map<string, Data>();

  constructor(
    private readonly fetchLayer: (key: string) => Promise<ArrayBuffer>,
    private readonly changed: () => void,
  ) {
    this.texture = this.make(0);
  }

  protected abstract make(layers: number): THREE.DataArrayTexture;
  protected abstract read(data: ArrayBuffer): Data;
  /** What has to be known of a layer besides its texels. */
  protected abstract note(layer: number, data: Data | undefined): void;

  async show(keys: string[]): Promise<void> {
    if (keys.join() === this.keys.join()) return;
    this.keys = keys;
    await Promise.all(
      keys.map(async (key) => {
        if (this.kept.has(key)) return;
        try {
          this.kept.set(key, this.read(await this.fetchLayer(key)));
        } catch {
          // Left as none; asked for again with the next patch.
        }
      }),
    );
    if (keys !== this.keys) return;
    this.texture.dispose();
    this.texture = this.make(keys.length);
    const all = this.texture.image.data as unknown as Data;
    const size = all.length / (keys.length + 1);
    keys.forEach((key, i) => {
      const data = this.kept.get(key);
      if (data?.length === size) all.set(data, (i + 1) * size);
      this.note(i + 1, data);
    });
    this.changed();
  }

  dispose(): void {
    this.texture.dispose();
  }
}

/** The rig's gobo images as transmission, rows from the top; layer 0 is open. */
export class GoboStore extends LayerStore<Uint8Array> {
  /** How much light each layer lets through on the whole. */
  means: number[] = [1];
  /** The same for the shaders, a texel each. */
  readonly meansTexture = new THREE.DataTexture(new Float32Array(MEANS).fill(1), MEANS, 1, THREE.RedFormat, THREE.FloatType);

  constructor(...given: ConstructorParameters<typeof LayerStore<Uint8Array>>) {
    super(...given);
    this.meansTexture.needsUpdate = true;
  }

  override dispose(): void {
    super.dispose();
    this.meansTexture.dispose();
  }

  protected make(layers: number): THREE.DataArrayTexture {
    const made = new THREE.DataArrayTexture(new Uint8Array(SIZE * SIZE * (layers + 1)).fill(255), SIZE, SIZE, layers + 1);
    made.format = THREE.RedFormat;
    made.type = THREE.UnsignedByteType;
    made.minFilter = THREE.LinearMipmapLinearFilter;
    made.magFilter = THREE.LinearFilter;
    made.generateMipmaps = true;
    made.needsUpdate = true;
    return made;
  }

  protected read(data: ArrayBuffer): Uint8Array {
    return new Uint8Array(data);
  }

  protected override note(layer: number, mask: Uint8Array | undefined): void {
    let sum = 0;
    let count = 0;
    for (let at = 0; mask && at < mask.length; at += 7) {
      const x = (at % SIZE) / SIZE - 0.5;
      const y = Math.floor(at / SIZE) / SIZE - 0.5;
      if (x * x + y * y > 0.25) continue;
      sum += mask[at] as number;
      count += 255;
    }
    const mean = count ? sum / count : 1;
    this.means[layer] = mean;
    if (layer < MEANS) (this.meansTexture.image.data as Float32Array)[layer] = mean;
    this.meansTexture.needsUpdate = true;
  }
}

/** Photometric webs as shares of their peak: rows by the square root of gamma / pi, columns by phi (core/optics/web.py). */
export class WebStore extends LayerStore<Uint16Array> {
  /** The solid angle that each would fill evenly with its peak. */
  angles: number[] = [0];

  protected override note(layer: number, web: Uint16Array | undefined): void {
    let sum = 0;
    for (let row = 0; web && row + 1 < WEB_ROWS; row++) {
      let mean = 0;
      for (let column = 0; column < WEB_COLUMNS; column++) mean += THREE.DataUtils.fromHalfFloat(web[row * WEB_COLUMNS + column] as number) / WEB_COLUMNS;
      const [low, high] = [Math.max(row - 0.5, 0), row + 0.5].map((at) => Math.PI * (at / (WEB_ROWS - 1)) ** 2) as [number, number];
      sum += mean * 2 * Math.PI * (Math.cos(low) - Math.cos(high));
    }
    this.angles[layer] = sum;
  }

  protected make(layers: number): THREE.DataArrayTexture {
    const made = new THREE.DataArrayTexture(new Uint16Array(WEB_ROWS * WEB_COLUMNS * (layers + 1)), WEB_COLUMNS, WEB_ROWS, layers + 1);
    made.format = THREE.RedFormat;
    made.type = THREE.HalfFloatType;
    made.minFilter = made.magFilter = THREE.LinearFilter;
    made.wrapS = THREE.RepeatWrapping;
    made.needsUpdate = true;
    return made;
  }

  protected read(data: ArrayBuffer): Uint16Array {
    return Uint16Array.from(new Float32Array(data), (share) => THREE.DataUtils.toHalfFloat(share));
  }
}
