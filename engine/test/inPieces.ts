// Random scenes whose meshes come in pieces, and what is left of their meshes without some of those.
import { type Engine, type EngineMesh, type EngineScene, type SceneMesh, readStoredHead } from '../host/index.ts';
import { GLOW } from './randomScenes.ts';

/** In pieces, each object with a mesh of its own, but for those that give light. */
export async function inPieces(builder: Engine, what: EngineScene): Promise<EngineScene<SceneMesh>> {
  const meshes: SceneMesh[] = [];
  for (const o of what.instances) {
    const mesh = what.meshes[o.mesh]!;
    if (o.material === GLOW) {
      meshes.push(mesh);
      continue;
    }
    const all = await builder.store(mesh);
    const read = (from: number, bytes: number) => Promise.resolve(all.slice(from, from + bytes));
    meshes.push({ name: o.name, head: readStoredHead(all), read });
  }
  return { ...what, meshes, instances: what.instances.map((o, mesh) => ({ ...o, mesh })) };
}

/** Each triangle as four, so that there are more pieces. */
export function finer(mesh: EngineMesh): EngineMesh {
  const { indices } = mesh;
  const triangles = Array.from({ length: indices.length / 3 }, (_, t) => [...indices.subarray(t * 3, t * 3 + 3)]);
  const between = (of: Float32Array | undefined) => {
    if (!of) return undefined;
    const size = of.length / (mesh.positions.length / 3);
    const at = (vertex: number, c: number) => of[vertex * size + c]!;
    const middles = triangles.flatMap((corners) =>
      corners.flatMap((a, k) => Array.from({ length: size }, (_, c) => (at(a, c) + at(corners[(k + 1) % 3]!, c)) / 2)),
    );
    return Float32Array.from([...of, ...middles]);
  };
  const first = mesh.positions.length / 3;
  const fours = triangles.flatMap(([a, b, c], t) => {
    const [ab, bc, ca] = [0, 1, 2].map((k) => first + t * 3 + k);
    return [a!, ab!, ca!, ab!, b!, bc!, ca!, bc!, c!, ab!, bc!, ca!];
  });
  const { name } = mesh;
  const [normals, uv0, uv1, colors] = [mesh.normals, mesh.uv0, mesh.uv1, mesh.colors].map(between);
  const positions = between(mesh.positions)!;
  return { name, positions, normals, uv0, uv1, colors, indices: Uint32Array.from(fours) };
}

/**
 * The scene with a mesh for each object, of those pieces alone that are kept. What gives light is whole.
 * @param isKept piece of the mesh of the i-th object
 */
export async function cutTo(
  builder: Engine,
  what: EngineScene,
  isKept: (i: number, piece: number) => boolean,
): Promise<{ readonly cut: EngineScene; readonly triangles: number; readonly left: number }> {
  const meshes: EngineMesh[] = [];
  const instances: EngineScene['instances'][number][] = [];
  let [triangles, left] = [0, 0];
  for (const [i, o] of what.instances.entries()) {
    const whole = what.meshes[o.mesh]!;
    let { indices } = whole;
    if (o.material !== GLOW) {
      const pieces = await builder.divide(whole);
      indices = indices.filter((_, k) => isKept(i, pieces[Math.floor(k / 3)]!));
      triangles += whole.indices.length / 3;
      left += indices.length / 3;
    }
    if (indices.length) instances.push({ ...o, mesh: meshes.push({ ...whole, indices }) - 1 });
  }
  return { cut: { ...what, meshes, instances }, triangles, left };
}
