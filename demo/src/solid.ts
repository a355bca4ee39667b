// Many shapes in one: for meshes of hundreds of thousands of triangles, whose numbers stand in typed arrays.
import type { Shape } from './shapes.ts';

type V3 = readonly [number, number, number];
export interface AnyShape {
  readonly positions: ArrayLike<number>;
  readonly normals: ArrayLike<number>;
  readonly uvs: ArrayLike<number>;
  readonly indices: ArrayLike<number>;
}
export interface Placing {
  readonly at?: V3;
  /** Degrees about Y, then about X. */
  readonly turn?: number;
  readonly tilt?: number;
  readonly scale?: number | V3;
}

/** An array that makes room for more by itself. */
class Numbers<A extends Float32Array | Uint32Array> {
  length = 0;
  constructor(
    private array: A,
    private readonly make: (length: number) => A,
  ) {}
  /** Room for so many more. Returns where they go. */
  grow(by: number): A {
    const needed = this.length + by;
    if (needed > this.array.length) {
      const larger = this.make(Math.max(needed, this.array.length * 2));
      larger.set(this.array.subarray(0, this.length) as never);
      this.array = larger;
    }
    return this.array;
  }
  whole(): A {
    return this.array.slice(0, this.length) as A;
  }
}
const floats = () => new Numbers(new Float32Array(3 * 1024), (n) => new Float32Array(n));

export class Solid {
  private readonly positions = floats();
  private readonly normals = floats();
  private readonly uvs = floats();
  private readonly indices = new Numbers(new Uint32Array(3 * 1024), (n) => new Uint32Array(n));

  add(s: AnyShape | Shape, placing: Placing = {}): this {
    const first = this.positions.length / 3;
    const m = rotationOf(placing);
    const [x, y, z] = placing.at ?? [0, 0, 0];
    const scale = placing.scale ?? 1;
    const [sx, sy, sz] = typeof scale === 'number' ? [scale, scale, scale] : scale;
    const points = s.positions.length;
    const positions = this.positions.grow(points);
    const normals = this.normals.grow(points);
    for (let i = 0; i < points; i += 3) {
      const [a, b, c] = [s.positions[i]! * sx, s.positions[i + 1]! * sy, s.positions[i + 2]! * sz];
      const [d, e, f] = [s.normals[i]! / sx, s.normals[i + 1]! / sy, s.normals[i + 2]! / sz];
      const at = this.positions.length + i;
      positions[at] = m[0]! * a + m[1]! * b + m[2]! * c + x;
      positions[at + 1] = m[3]! * a + m[4]! * b + m[5]! * c + y;
      positions[at + 2] = m[6]! * a + m[7]! * b + m[8]! * c + z;
      normals[at] = m[0]! * d + m[1]! * e + m[2]! * f;
      normals[at + 1] = m[3]! * d + m[4]! * e + m[5]! * f;
      normals[at + 2] = m[6]! * d + m[7]! * e + m[8]! * f;
    }
    const uvs = this.uvs.grow(s.uvs.length);
    for (let i = 0; i < s.uvs.length; i++) uvs[this.uvs.length + i] = s.uvs[i]!;
    const indices = this.indices.grow(s.indices.length);
    for (let i = 0; i < s.indices.length; i++) indices[this.indices.length + i] = s.indices[i]! + first;
    this.positions.length += points;
    this.normals.length += points;
    this.uvs.length += s.uvs.length;
    this.indices.length += s.indices.length;
    return this;
  }

  shape(): AnyShape {
    return {
      positions: this.positions.whole(),
      normals: this.normals.whole(),
      uvs: this.uvs.whole(),
      indices: this.indices.whole(),
    };
  }
}

/** Rows of Ry(turn) · Rx(tilt). */
function rotationOf({ turn = 0, tilt = 0 }: Placing): number[] {
  const [ty, tx] = [(turn * Math.PI) / 180, (tilt * Math.PI) / 180];
  const [cy, sy, cx, sx] = [Math.cos(ty), Math.sin(ty), Math.cos(tx), Math.sin(tx)];
  return [cy, sy * sx, sy * cx, 0, cx, -sx, -sy, cy * sx, cy * cx];
}

/** A grid of (across + 1) × (up + 1) points over a function; its normals by finite differences. */
export function relief(across: number, up: number, at: (u: number, v: number) => V3, tile: number): AnyShape {
  const points = (across + 1) * (up + 1);
  const positions = new Float32Array(points * 3);
  const normals = new Float32Array(points * 3);
  const uvs = new Float32Array(points * 2);
  const indices = new Uint32Array(across * up * 6);
  for (let j = 0; j <= up; j++)
    for (let i = 0; i <= across; i++) {
      const k = j * (across + 1) + i;
      positions.set(at(i / across, j / up), k * 3);
      uvs.set([positions[k * 3]! / tile, 1 - positions[k * 3 + 1]! / tile], k * 2);
    }
  const point = (i: number, j: number, c: number) =>
    positions[(Math.min(up, Math.max(0, j)) * (across + 1) + Math.min(across, Math.max(0, i))) * 3 + c]!;
  for (let j = 0; j <= up; j++)
    for (let i = 0; i <= across; i++) {
      const du = [0, 1, 2].map((c) => point(i + 1, j, c) - point(i - 1, j, c));
      const dv = [0, 1, 2].map((c) => point(i, j + 1, c) - point(i, j - 1, c));
      const n = [
        du[1]! * dv[2]! - du[2]! * dv[1]!,
        du[2]! * dv[0]! - du[0]! * dv[2]!,
        du[0]! * dv[1]! - du[1]! * dv[0]!,
      ];
      const l = Math.hypot(n[0]!, n[1]!, n[2]!) || 1;
      normals.set([n[0]! / l, n[1]! / l, n[2]! / l], (j * (across + 1) + i) * 3);
    }
  let top = 0;
  for (let j = 0; j < up; j++)
    for (let i = 0; i < across; i++) {
      const a = j * (across + 1) + i;
      const b = a + across + 1;
      indices.set([a, a + 1, b + 1, a, b + 1, b], top);
      top += 6;
    }
  return { positions, normals, uvs, indices };
}
