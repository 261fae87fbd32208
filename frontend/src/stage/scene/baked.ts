import * as THREE from "three";

const U16 = 65535;
const I8 = 127;

/** One of many: its mesh, where it stands, its colour and own number (light/solid.vert.glsl). */
export interface Small {
  mesh: THREE.BufferGeometry;
  matrix: ArrayLike<number>;
  tint: ArrayLike<number>;
  finish: number;
}

/**
 * Many small things, such as a crowd from afar, in one buffer and one draw, each already where it stands. What is drawn of
 * them is a choice of their triangles. Software rendering draws instances one by one, at a tenth of a millisecond each
 * however small they are.
 */
export class Baked {
  readonly drawn: THREE.Mesh;
  readonly caster: THREE.Mesh;
  private things: readonly Small[] = [];
  /** Where each one's vertices and triangle corners begin. */
  private vertexAt = new Uint32Array(1);
  private cornerAt = new Uint32Array(1);
  private corners = new Uint32Array(0);

  constructor(surface: THREE.Material, casting: THREE.Material) {
    this.drawn = new THREE.Mesh(new THREE.BufferGeometry(), surface);
    this.caster = new THREE.Mesh(new THREE.BufferGeometry(), casting);
    this.drawn.frustumCulled = this.caster.frustumCulled = false;
    this.build([]);
  }

  build(things: readonly Small[]): void {
    this.things = things;
    this.vertexAt = starts(things.map(({ mesh }) => mesh.getAttribute("position").count));
    this.cornerAt = starts(things.map(({ mesh }) => mesh.getIndex()?.count ?? 0));
    const count = this.vertexAt[things.length] as number;
    this.corners = new Uint32Array(this.cornerAt[things.length] as number);
    const position = new THREE.BufferAttribute(new Float32Array(count * 3), 3);
    const normal = new THREE.BufferAttribute(new Int8Array(count * 3), 3, true);
    const part = new THREE.BufferAttribute(new Uint8Array(count), 1);
    const finish = new THREE.BufferAttribute(new Uint8Array(count * 3), 3);
    const tint = new THREE.BufferAttribute(new Uint16Array(count * 4), 4, true);
    things.forEach((thing, i) => {
      const [from, to] = [this.vertexAt[i] as number, this.vertexAt[i + 1] as number];
      part.array.set(thing.mesh.getAttribute("part").array, from);
      const shade = Array.from(thing.tint, (one) => Math.round(Math.min(Math.max(one, 0), 1) * U16));
      for (let v = from; v < to; v++) {
        tint.array.set(shade, v * 4);
        finish.array[v * 3] = thing.finish;
      }
      const index = thing.mesh.getIndex()?.array ?? [];
      const at = this.cornerAt[i] as number;
      for (let k = 0; k < index.length; k++) this.corners[at + k] = (index[k] as number) + from;
    });
    for (const mesh of [this.drawn, this.caster]) {
      mesh.geometry.dispose();
      mesh.geometry = new THREE.BufferGeometry();
      for (const [name, attribute] of Object.entries(mesh === this.drawn ? { position, normal, part, finish, tint } : { position })) mesh.geometry.setAttribute(name, attribute);
      mesh.geometry.setIndex(new THREE.BufferAttribute(new Uint32Array(this.corners.length), 1));
    }
    things.forEach((thing, i) => this.put(i, thing.matrix));
    // All of it is new to the graphics processor.
    position.clearUpdateRanges();
    normal.clearUpdateRanges();
    this.choose(this.drawn, []);
    this.choose(this.caster, []);
  }

  /** Where one of them stands from now on. */
  put(number: number, matrix: ArrayLike<number>): void {
    const mesh = this.things[number]?.mesh;
    if (!mesh) return;
    const from = this.vertexAt[number] as number;
    const place = this.drawn.geometry.getAttribute("position") as THREE.BufferAttribute;
    const facing = this.drawn.geometry.getAttribute("normal") as THREE.BufferAttribute;
    const own = mesh.getAttribute("position");
    const ownFacing = mesh.getAttribute("normal");
    const whole = new THREE.Matrix4().fromArray(Array.from(matrix));
    const turned = new THREE.Matrix3().setFromMatrix4(whole);
    const v = new THREE.Vector3();
    for (let i = 0; i < own.count; i++) {
      v.fromBufferAttribute(own, i).applyMatrix4(whole).toArray(place.array, (from + i) * 3);
      v.fromBufferAttribute(ownFacing, i).applyMatrix3(turned).normalize().multiplyScalar(I8).round().toArray(facing.array, (from + i) * 3);
    }
    for (const one of [place, facing]) {
      one.addUpdateRange(from * 3, own.count * 3);
      one.needsUpdate = true;
    }
  }

  /** Draw these, by their numbers, and no others. */
  show(numbers: readonly number[]): void {
    this.choose(this.drawn, numbers);
  }

  /** Let these throw shadows, and no others. */
  cast(numbers: readonly number[]): void {
    this.choose(this.caster, numbers);
  }

  private choose(mesh: THREE.Mesh, numbers: readonly number[]): void {
    const index = mesh.geometry.getIndex() as THREE.BufferAttribute;
    let count = 0;
    for (const number of numbers) {
      const corners = this.corners.subarray(this.cornerAt[number], this.cornerAt[number + 1]);
      index.array.set(corners, count);
      count += corners.length;
    }
    mesh.visible = count > 0;
    mesh.geometry.setDrawRange(0, count);
    if (!count) return;
    index.clearUpdateRanges();
    index.addUpdateRange(0, count);
    index.needsUpdate = true;
  }
}

/** Where each of some runs begins when they lie one after the other, and where the last ends. */
function starts(counts: readonly number[]): Uint32Array<ArrayBuffer> {
  const at = new Uint32Array(counts.length + 1);
  counts.forEach((count, i) => (at[i + 1] = (at[i] as number) + count));
  return at;
}
