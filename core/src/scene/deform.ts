// Skins and morph targets: a mesh as it stands in a posed scene. After glTF 2.0: morph first, then skin; a skinned mesh
// lies where its joints are, whatever its own node says. Stored beside the mesh's geometry, sections one after another,
// little-endian:
//   where skinned: joints u16×4 | weights f32×4 (adding up to 1)
//   then for each target: positions f32×3 | normals f32×3 (where it has some)
import type { MeshDeform } from './deformData.ts';
import type { SceneDocument, SceneMesh } from './document.ts';
import type { Matrix, Rgb } from './vectors.ts';
import { type Geometry, joined } from './geometry.ts';
import { IDENTITY, multiply, transformPoint, worldMatrices } from './matrix.ts';

export interface DeformData {
  readonly joints?: Uint16Array;
  readonly weights?: Float32Array;
  readonly targets: readonly { readonly positions: Float32Array; readonly normals?: Float32Array }[];
}

export const packDeform = (d: DeformData): Uint8Array =>
  joined([d.joints, d.weights, ...d.targets.flatMap((t) => [t.positions, t.normals])].filter((s) => s !== undefined));
/** @throws RangeError where the length does not fit */
export function unpackDeform(bytes: Uint8Array, d: MeshDeform, vertices: number): DeformData {
  const wanted = vertices * ((d.skinned ? 24 : 0) + d.targets.reduce((n, t) => n + (t.normals ? 24 : 12), 0));
  if (bytes.byteLength !== wanted)
    throw new RangeError(`Skins and morph targets hold ${bytes.byteLength} bytes instead of ${wanted}.`);
  let at = bytes.byteOffset;
  const floats = (n: number) => {
    const v = new Float32Array(bytes.buffer, at, n);
    at += n * 4;
    return v;
  };
  const skin = d.skinned
    ? { joints: new Uint16Array(bytes.buffer, at, vertices * 4), weights: ((at += vertices * 8), floats(vertices * 4)) }
    : {};
  return {
    ...skin,
    targets: d.targets.map((t) => ({
      positions: floats(vertices * 3),
      ...(t.normals && { normals: floats(vertices * 3) }),
    })),
  };
}

/** Whether a node's mesh is not as it is stored. */
export function deforms(document: SceneDocument, node: number, mesh: number): boolean {
  const n = document.nodes[node]!;
  const d = document.meshes[mesh]!.deform;
  return (
    d !== undefined &&
    ((d.skinned && n.skin !== undefined) ||
      d.targets.some((_, i) => (n.weights?.[i] ?? 0) !== 0) ||
      (d.targets.length > 0 &&
        (document.animation?.channels.some((c) => c.node === node && c.path === 'weights') ?? false)))
  );
}
const isSkinned = (document: SceneDocument, node: number): boolean => {
  const n = document.nodes[node]!;
  return n.skin !== undefined && (n.parts?.some((p) => document.meshes[p.mesh]!.deform?.skinned) ?? false);
};

/** World matrices by which objects are placed: skinned ones come with their place in them. */
export const placements = (
  document: SceneDocument,
  world: readonly Matrix[] = worldMatrices(document.nodes),
): Matrix[] => world.map((m, i) => (isSkinned(document, i) ? IDENTITY : m));

/** From a mesh's space to the world, a matrix a joint. */
function jointMatrices(document: SceneDocument, skin: number, world: readonly Matrix[]): Matrix[] {
  const { joints, inverseBind } = document.skins![skin]!;
  return joints.map((j, k) => multiply(world[j]!, inverseBind.slice(k * 16, k * 16 + 16)));
}

/** A box that holds a node's mesh in its placement's space, whatever the weights of its joints are. */
export function boundsOf(
  document: SceneDocument,
  node: number,
  mesh: number,
  world: readonly Matrix[],
): { readonly min: Rgb; readonly max: Rgb } {
  const m: SceneMesh = document.meshes[mesh]!;
  const n = document.nodes[node]!;
  const d = m.deform;
  if (!d || !deforms(document, node, mesh)) return m;
  const lo = [...m.min];
  const hi = [...m.max];
  d.targets.forEach((t, i) => {
    const w = n.weights?.[i] ?? 0;
    for (let k = 0; k < 3; k++) {
      lo[k]! += Math.min(w * t.min[k]!, w * t.max[k]!);
      hi[k]! += Math.max(w * t.min[k]!, w * t.max[k]!);
    }
  });
  if (!d.skinned || n.skin === undefined) return { min: lo as unknown as Rgb, max: hi as unknown as Rgb };
  // a skinned vertex is a mean of where each joint takes it, so it lies in the box of all their boxes
  const min = [Infinity, Infinity, Infinity];
  const max = [-Infinity, -Infinity, -Infinity];
  for (const j of jointMatrices(document, n.skin, world))
    for (let c = 0; c < 8; c++)
      transformPoint(j, [c & 1 ? hi[0]! : lo[0]!, c & 2 ? hi[1]! : lo[1]!, c & 4 ? hi[2]! : lo[2]!]).forEach((x, k) => {
        min[k] = Math.min(min[k]!, x);
        max[k] = Math.max(max[k]!, x);
      });
  return { min: min as unknown as Rgb, max: max as unknown as Rgb };
}

/** A box that holds all objects of a document as it stands, in the world; undefined where it has none. */
export function sceneBox(document: SceneDocument): { readonly min: Rgb; readonly max: Rgb } | undefined {
  const world = worldMatrices(document.nodes);
  const placed = placements(document, world);
  const lo: [number, number, number] = [Infinity, Infinity, Infinity];
  const hi: [number, number, number] = [-Infinity, -Infinity, -Infinity];
  document.nodes.forEach((n, i) =>
    n.parts?.forEach((p) => {
      const { min, max } = boundsOf(document, i, p.mesh, world);
      for (let c = 0; c < 8; c++) {
        const corner: Rgb = [c & 1 ? max[0] : min[0], c & 2 ? max[1] : min[1], c & 4 ? max[2] : min[2]];
        transformPoint(placed[i]!, corner).forEach((x, k) => {
          lo[k] = Math.min(lo[k]!, x);
          hi[k] = Math.max(hi[k]!, x);
        });
      }
    }),
  );
  return lo[0] === Infinity ? undefined : { min: lo, max: hi };
}

/** The mesh of a node in a posed scene, in its placement's space. */
export function deformGeometry(
  document: SceneDocument,
  node: number,
  g: Geometry,
  data: DeformData,
  world: readonly Matrix[],
): Geometry {
  const n = document.nodes[node]!;
  const positions = g.positions.slice();
  const normals = g.normals?.slice();
  data.targets.forEach((t, i) => {
    const w = n.weights?.[i] ?? 0;
    if (w === 0) return;
    for (let k = 0; k < positions.length; k++) positions[k]! += w * t.positions[k]!;
    if (normals && t.normals) for (let k = 0; k < normals.length; k++) normals[k]! += w * t.normals[k]!;
  });
  const { joints, weights } = data;
  if (joints && weights && n.skin !== undefined) {
    const matrices = jointMatrices(document, n.skin, world);
    const m = new Float64Array(16);
    for (let v = 0; v < positions.length / 3; v++) {
      m.fill(0);
      for (let k = 0; k < 4; k++) {
        const w = weights[v * 4 + k]!;
        const j = w ? matrices[joints[v * 4 + k]!] : undefined;
        if (j) for (let x = 0; x < 16; x++) m[x]! += w * j[x]!;
      }
      const q = v * 3;
      const [x, y, z] = [positions[q]!, positions[q + 1]!, positions[q + 2]!];
      for (let r = 0; r < 3; r++) positions[q + r] = m[r]! * x + m[4 + r]! * y + m[8 + r]! * z + m[12 + r]!;
      if (!normals) continue;
      // by the cofactors, which keep normals upright where joints scale
      const [a, b, c] = [normals[q]!, normals[q + 1]!, normals[q + 2]!];
      for (let r = 0; r < 3; r++) {
        const p = (r + 1) % 3;
        const s = (r + 2) % 3;
        normals[q + r] =
          (m[4 + p]! * m[8 + s]! - m[4 + s]! * m[8 + p]!) * a +
          (m[8 + p]! * m[s]! - m[8 + s]! * m[p]!) * b +
          (m[p]! * m[4 + s]! - m[s]! * m[4 + p]!) * c;
      }
    }
  }
  if (normals)
    for (let q = 0; q < normals.length; q += 3) {
      const l = Math.hypot(normals[q]!, normals[q + 1]!, normals[q + 2]!) || 1;
      for (let k = 0; k < 3; k++) normals[q + k]! /= l;
    }
  return { ...g, positions, normals };
}
