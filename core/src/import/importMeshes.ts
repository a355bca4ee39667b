// Meshes of a scene file: triangles that can be rendered, with what is wrong with the others.
import type { Accessor, Primitive } from '@gltf-transform/core';
import { type Geometry, type SceneMesh, isClosed, packGeometry } from '../scene/index.ts';
import type { Gathered } from './gathered.ts';
import { readDeform } from './importMotion.ts';

/** Bytes of a mesh's acceleration structure, measured by the engine. */
export type MeasureMesh = (name: string, geometry: Geometry) => Promise<number>;

export class Meshes {
  readonly list: SceneMesh[] = [];
  private readonly known = new Map<Primitive, number | undefined>();
  private readonly withTangents = new Set<string>();
  constructor(
    private readonly gathered: Gathered,
    private readonly measure: MeasureMesh,
  ) {}

  /** Undefined where nothing of it can be rendered. */
  indexOf(p: Primitive): number | undefined {
    return this.known.get(p);
  }

  read(name: string, p: Primitive): void {
    if (this.known.has(p)) return;
    this.known.set(p, this.readOne(name, p));
    if (p.getAttribute('TANGENT')) this.withTangents.add(name);
  }
  /** What is not read of many alike, said once. */
  remark(): void {
    const [first] = this.withTangents;
    if (first === undefined) return;
    const n = this.withTangents.size;
    const which = n === 1 ? `mesh “${first}”` : `${n} meshes (“${first}” and others)`;
    this.gathered.fault(
      'ignored',
      first,
      `The tangents of ${which} are not used: normal maps lie along their texture coordinates.`,
    );
  }
  private readOne(name: string, p: Primitive): number | undefined {
    const position = p.getAttribute('POSITION');
    if (!position || position.getCount() < 3)
      return this.left('bad-geometry', name, `Mesh “${name}” has no positions and is left out.`);
    if (p.getMode() < 4)
      return this.left('unread-feature', name, `Mesh “${name}” is made of points or lines, which are not rendered.`);
    const positions = floats(position, 3);
    const indices = this.soundTriangles(name, triangleIndices(p, position.getCount()), positions);
    if (!indices.length)
      return this.left('bad-geometry', name, `Mesh “${name}” has no triangles left and is left out.`);
    const geometry = geometryOf(p, positions, indices);
    return this.add(name, geometry, this.deformOf(name, p, position.getCount()));
  }
  private left(kind: 'bad-geometry' | 'unread-feature', name: string, message: string): undefined {
    this.gathered.fault(kind, name, message);
    return undefined;
  }

  /** Indices of triangles that have three vertices which are there, are numbers and differ. */
  private soundTriangles(name: string, raw: ArrayLike<number>, positions: Float32Array): Uint32Array {
    const kept: number[] = [];
    const count = positions.length / 3;
    let bad = 0;
    let outside = 0;
    let flat = 0;
    for (let i = 0; i + 2 < raw.length; i += 3) {
      const a = raw[i]!;
      const b = raw[i + 1]!;
      const c = raw[i + 2]!;
      if (a >= count || b >= count || c >= count) outside++;
      else if (!finite3(positions, a) || !finite3(positions, b) || !finite3(positions, c)) bad++;
      else if (a === b || b === c || a === c) flat++;
      else kept.push(a, b, c);
    }
    const say = (kind: 'bad-geometry' | 'degenerate-triangles', n: number, what: string) => {
      if (n) this.gathered.fault(kind, name, `${n} triangles of “${name}” ${what} and are left out.`);
    };
    say('bad-geometry', bad, 'have positions that are not numbers');
    say('bad-geometry', outside, 'refer to vertices that do not exist');
    say('degenerate-triangles', flat, 'have no area');
    return new Uint32Array(kept);
  }

  private deformOf(name: string, p: Primitive, vertices: number): ReturnType<typeof readDeform> {
    const say = (message: string) => this.gathered.fault('unread-feature', name, `Mesh “${name}”: ${message}`);
    return readDeform(p, vertices, this.gathered.keep, say);
  }

  private add(name: string, geometry: Geometry, deform: ReturnType<typeof readDeform>): number {
    const { positions, indices } = geometry;
    const at =
      this.list.push({
        name,
        blob: this.gathered.keep(packGeometry(geometry)),
        vertices: positions.length / 3,
        triangles: indices.length / 3,
        normals: !!geometry.normals,
        uv0: !!geometry.uv0,
        uv1: !!geometry.uv1,
        colors: !!geometry.colors,
        ...boxOf(positions, indices),
        ...(isClosed(positions, indices) && { closed: true as const }),
        accelerationBytes: 0,
        ...(deform && { deform }),
      }) - 1;
    // measured by the engine's own thread while the next mesh is read here
    const measured = this.measure(name, geometry).then((accelerationBytes) => {
      this.list[at] = { ...this.list[at]!, accelerationBytes };
    });
    this.gathered.wait(measured);
    return at;
  }
}

/** What is no number in it becomes 0: no sound triangle is made of such a vertex, or it is a mere attribute. */
function geometryOf(p: Primitive, positions: Float32Array, indices: Uint32Array): Geometry {
  const count = positions.length / 3;
  const attribute = (semantic: string, size: number) => {
    const a = p.getAttribute(semantic);
    return a && a.getCount() === count ? floats(a, size) : undefined;
  };
  const color = p.getAttribute('COLOR_0');
  const geometry: Geometry = {
    positions,
    normals: attribute('NORMAL', 3),
    uv0: attribute('TEXCOORD_0', 2),
    uv1: attribute('TEXCOORD_1', 2),
    colors: color && color.getCount() === count ? rgba(color) : undefined,
    indices,
  };
  const { normals, uv0, uv1, colors } = geometry;
  for (const a of [positions, normals, uv0, uv1, colors]) {
    if (!a) continue;
    for (let i = 0; i < a.length; i++) if (!Number.isFinite(a[i]!)) a[i] = 0;
  }
  return geometry;
}

function boxOf(positions: Float32Array, indices: Uint32Array): Pick<SceneMesh, 'min' | 'max'> {
  const min: [number, number, number] = [Infinity, Infinity, Infinity];
  const max: [number, number, number] = [-Infinity, -Infinity, -Infinity];
  for (const i of indices)
    for (let k = 0; k < 3; k++) {
      min[k] = Math.min(min[k]!, positions[i * 3 + k]!);
      max[k] = Math.max(max[k]!, positions[i * 3 + k]!);
    }
  return { min, max };
}

const finite3 = (p: Float32Array, i: number) =>
  Number.isFinite(p[i * 3]!) && Number.isFinite(p[i * 3 + 1]!) && Number.isFinite(p[i * 3 + 2]!);

function floats(a: Accessor, size: number): Float32Array {
  const array = a.getArray();
  if (array instanceof Float32Array && a.getElementSize() === size) return array.slice();
  const out = new Float32Array(a.getCount() * size);
  const e: number[] = [];
  for (let i = 0; i < a.getCount(); i++) {
    a.getElement(i, e);
    for (let k = 0; k < size; k++) out[i * size + k] = e[k] ?? 0;
  }
  return out;
}
function rgba(a: Accessor): Float32Array {
  const size = a.getElementSize();
  const three = floats(a, size);
  if (size === 4) return three;
  const out = new Float32Array(a.getCount() * 4).fill(1);
  for (let i = 0; i < a.getCount(); i++) out.set(three.subarray(i * 3, i * 3 + 3), i * 4);
  return out;
}

/** Triangles of a list, strip or fan. */
function triangleIndices(p: Primitive, vertices: number): ArrayLike<number> {
  const given = p.getIndices()?.getArray() ?? Uint32Array.from({ length: vertices }, (_, i) => i);
  if (p.getMode() === 4) return given;
  const out: number[] = [];
  for (let i = 0; i + 2 < given.length; i++) {
    if (p.getMode() === 6) out.push(given[0]!, given[i + 1]!, given[i + 2]!);
    else if (i % 2) out.push(given[i + 1]!, given[i]!, given[i + 2]!);
    else out.push(given[i]!, given[i + 1]!, given[i + 2]!);
  }
  return out;
}
