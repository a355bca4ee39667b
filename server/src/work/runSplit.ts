// What one camera needs of a scene in a look, into a file of its own.
import { readFile, writeFile } from 'node:fs/promises';
import { type CullEvidence, type Verdict, uncut } from '@variscen/core/cull';
import { exportScene, splitDocument } from '@variscen/core/export';
import { propertyOf } from '@variscen/core/looks';
import { deformGeometry, poseFor, unpackDeform, unpackGeometry, worldMatrices } from '@variscen/core/scene';
import { Look } from '@variscen/engine';
import { namedFor } from '../files/cullPlans.ts';
import { openScene } from './openScene.ts';
import type { SplitOutcome, SplitTask } from './tasks.ts';

export async function runSplit(t: SplitTask): Promise<SplitOutcome> {
  const { asset, document: scene, motion, state } = await openScene(t);
  const named = await namedFor(t.cameras[0]!, asset);
  const unmet = new Set(
    t.evidence === null ? [] : (JSON.parse(await readFile(t.evidence, 'utf8')) as CullEvidence).unmet,
  );

  // 1. What is kept at any of the frames
  const paths = new Set<string>();
  let objects = 0;
  for (const camera of t.cameras) {
    const look = new Look(poseFor(scene, motion, camera).now.document, undefined, state);
    const { nodes } = look.document;
    const isNeeded = ({ keep, reason, node }: Verdict) =>
      keep && (reason === 'pinned' || reason === 'gives-light' || !unmet.has(nodes[node]!.path));
    const { verdicts } = look.through(camera, named);
    for (const v of verdicts) if (isNeeded(v)) paths.add(nodes[v.node]!.path);
    objects = Math.max(objects, look.through(uncut(camera)).verdicts.filter((v) => v.keep).length);
  }

  // 2. As it stands at the first of them
  const pose = poseFor(scene, motion, t.cameras[0]!).now;
  const { document } = new Look(pose.document, undefined, state);
  const keep = new Set(document.nodes.flatMap((n, i) => (n.parts && paths.has(n.path) ? [i] : [])));
  const split = splitDocument({ document, state, keep, camera: { name: t.cameraName, settings: pose.camera } });
  const world = worldMatrices(document.nodes);
  const materials = t.changes.filter((c) => propertyOf(c.property)?.facet === 'materials');
  const { bytes } = await exportScene(
    split.document,
    [{ id: 'base', name: 'Base', kind: 'base', changes: materials }],
    [],
    {
      geometry: async (i) => {
        const { mesh, node } = split.meshes[i]!;
        const about = document.meshes[mesh]!;
        const still = unpackGeometry(await asset(about.blob), about);
        if (node === null) return still;
        const deform = unpackDeform(await asset(about.deform!.blob), about.deform!, about.vertices);
        return deformGeometry(document, node, still, deform, world);
      },
      image: asset,
    },
  );
  await writeFile(t.file, bytes);
  return { bytes: bytes.length, objects: keep.size, ofObjects: objects };
}
