// What meshes take when they are simplified, by simplifying them and building their structures.
import { type StandIn, WORTH_SHARE } from '@variscen/core/cull';
import { type SceneDocument, unpackGeometry } from '@variscen/core/scene';
import { simplified } from '@variscen/core/simplify';
import type { Engine } from '@variscen/engine';
import { openNodeEngine } from '@variscen/engine/node';
import { AssetStore } from '../files/store.ts';
import type { StandInsOutcome, StandInsTask } from './tasks.ts';

export async function runStandIns(t: StandInsTask, onProgress: (fraction: number) => void): Promise<StandInsOutcome> {
  const store = new AssetStore(t.assets);
  const document = JSON.parse(new TextDecoder().decode(await store.get(t.sceneHash))) as SceneDocument;
  const meshes = new Map(document.meshes.map((m) => [m.blob, m]));
  const engine = await openNodeEngine(1);
  try {
    const out: (StandIn | null)[] = [];
    for (const [i, [blob, exponent]] of t.wanted.entries()) {
      const mesh = meshes.get(blob);
      out.push(mesh ? await standIn(mesh, exponent, store, engine) : null);
      onProgress((i + 1) / t.wanted.length);
    }
    return out;
  } finally {
    await engine.close();
  }
}

async function standIn(
  mesh: SceneDocument['meshes'][number],
  exponent: number,
  store: AssetStore,
  engine: Engine,
): Promise<StandIn | null> {
  const made = await simplified(unpackGeometry(await store.get(mesh.blob), mesh), 2 ** exponent);
  const triangles = made.indices.length / 3;
  if (triangles > mesh.triangles * WORTH_SHARE) return null;
  const accelerationBytes = await engine.measureMesh({ name: mesh.name, ...made });
  return { exponent, vertices: made.positions.length / 3, triangles, accelerationBytes };
}
