// What the ray benchmarks trace: about 790,000 triangles strewn over a floor, 20,000 instances of a knot, and sets of
// rays through both.
import {
  BoxGeometry,
  type BufferGeometry,
  Matrix4,
  Quaternion,
  SphereGeometry,
  TorusKnotGeometry,
  Vector3,
} from 'three';

export interface Mesh {
  readonly positions: Float32Array;
  readonly indices: Uint32Array;
}
export const numbers = (seed: number) => () => (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 2 ** 32;
export const RAYS = 1 << 20;

const SHAPES = [
  () => new TorusKnotGeometry(0.5, 0.15, 128, 16),
  () => new SphereGeometry(0.5, 48, 32),
  () => new BoxGeometry(1, 1, 1, 20, 20, 20),
];

export function solids(): Mesh {
  const positions: number[] = [];
  const indices: number[] = [];
  const random = numbers(12345);
  for (let k = 0; k < 200; k++) {
    const g = SHAPES[k % SHAPES.length]!();
    const p = g.getAttribute('position').array;
    const first = positions.length / 3;
    const at = [random() * 20 - 10, random() * 4, random() * 20 - 10];
    for (let i = 0; i < p.length; i++) positions.push(p[i]! + at[i % 3]!);
    for (const i of g.getIndex()!.array) indices.push(i + first);
  }
  const b = positions.length / 3;
  positions.push(-12, -1, -12, 12, -1, -12, 12, -1, 12, -12, -1, 12);
  indices.push(b, b + 2, b + 1, b, b + 3, b + 2);
  return { positions: new Float32Array(positions), indices: new Uint32Array(indices) };
}

export function knot(): Mesh {
  const g: BufferGeometry = new TorusKnotGeometry(0.5, 0.15, 156, 16);
  return {
    positions: new Float32Array(g.getAttribute('position').array),
    indices: new Uint32Array(g.getIndex()!.array),
  };
}
/** 3 × 4 transforms, column by column. */
export function scattered(count: number): Float32Array {
  const random = numbers(99);
  const out = new Float32Array(count * 12);
  for (let i = 0; i < count; i++) {
    const turn = new Quaternion(random() - 0.5, random() - 0.5, random() - 0.5, random() - 0.5).normalize();
    const s = 0.5 + random();
    const m = new Matrix4().compose(
      new Vector3(random() * 60 - 30, random() * 20, random() * 60 - 30),
      turn,
      new Vector3(s, s * (0.7 + 0.6 * random()), s),
    ).elements;
    for (let c = 0; c < 4; c++) for (let r = 0; r < 3; r++) out[i * 12 + c * 3 + r] = m[c * 4 + r]!;
  }
  return out;
}

const ray = (out: Float32Array, i: number, o: readonly number[], d: readonly number[]) => {
  const l = Math.hypot(...d);
  out.set([...o, 0, ...d.map((x) => x / l), Infinity], i * 8);
};
const sphere = (random: () => number): number[] => {
  const z = random() * 2 - 1;
  const a = random() * Math.PI * 2;
  const r = Math.sqrt(1 - z * z);
  return [r * Math.cos(a), r * Math.sin(a), z];
};

/** Starting anywhere in a box, going anywhere. */
export function incoherent(min: readonly number[], size: readonly number[]): Float32Array {
  const random = numbers(777);
  const out = new Float32Array(RAYS * 8);
  for (let i = 0; i < RAYS; i++)
    ray(
      out,
      i,
      min.map((m, k) => m + random() * size[k]!),
      sphere(random),
    );
  return out;
}
/**
 * One through each pixel of 1024 × 1024, in the order in which the renderer takes them: tile by tile, in squares of
 * sixteen made of squares of four.
 */
export function throughPixels(eye: readonly number[]): Float32Array {
  const out = new Float32Array(RAYS * 8);
  const W = 64;
  const H = 32;
  for (let i = 0; i < RAYS; i++) {
    const tile = Math.floor(i / (W * H));
    const k = i % (W * H);
    const square = k >> 4;
    const x = (tile % (1024 / W)) * W + ((square % (W / 4)) << 2) + (k & 1) + ((k >> 1) & 2);
    const y = Math.floor(tile / (1024 / W)) * H + (Math.floor(square / (W / 4)) << 2) + ((k >> 1) & 1) + ((k >> 2) & 2);
    ray(out, i, eye, [(x / 512 - 1) * 0.6, (1 - y / 512) * 0.6 - 0.35, -1]);
  }
  return out;
}
/**
 * From where rays hit a mesh (distance and triangle of each, 0xffffffff for none): one bounced by the cosine law, one
 * towards the sun.
 */
export function offHits(
  mesh: Mesh,
  rays: Float32Array,
  hit: (i: number) => { t: number; prim: number },
): { bounce: Float32Array; sun: Float32Array } {
  const bounce = new Float32Array(RAYS * 8);
  const sun = new Float32Array(RAYS * 8);
  const random = numbers(5);
  const v = (i: number) => [0, 1, 2].map((k) => mesh.positions[mesh.indices[i]! * 3 + k]!);
  let n = 0;
  for (let i = 0; i < RAYS; i++) {
    const { t, prim } = hit(i);
    if (prim === 0xffffffff) continue;
    const [a, b, c] = [v(prim * 3), v(prim * 3 + 1), v(prim * 3 + 2)] as [number[], number[], number[]];
    const p = b.map((x, k) => x - a[k]!) as [number, number, number];
    const q = c.map((x, k) => x - a[k]!) as [number, number, number];
    const d = [...rays.subarray(i * 8 + 4, i * 8 + 7)];
    let normal = [p[1] * q[2] - p[2] * q[1], p[2] * q[0] - p[0] * q[2], p[0] * q[1] - p[1] * q[0]];
    const l = Math.hypot(...normal) * (normal.reduce((s, x, k) => s + x * d[k]!, 0) > 0 ? -1 : 1);
    normal = normal.map((x) => x / l);
    const at = d.map((x, k) => rays[i * 8 + k]! + x * t + normal[k]! * 1e-4);
    const around = sphere(random);
    ray(
      bounce,
      n,
      at,
      normal.map((x, k) => x + around[k]! * 0.999),
    );
    ray(sun, n, at, [0.4558, 0.7977, 0.3951]);
    n++;
  }
  return { bounce: bounce.slice(0, n * 8), sun: sun.slice(0, n * 8) };
}
