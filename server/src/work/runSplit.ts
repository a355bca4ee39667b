// What one camera needs of a scene in a look, into a file of its own.
import { readFile, writeFile } from 'node:fs/promises';
import {
  type CullEvidence,
  type NamedObjects,
  type Verdict,
  isSimplified,
  neededLevels,
  uncut,
} from '@variscen/core/cull';
import { exportScene, splitDocument } from '@variscen/core/export';
import { propertyOf } from '@variscen/core/looks';
import { type SceneDocument, type SceneNode, poseFor } from '@variscen/core/scene';
import { type CameraView, Look, srgbTextures } from '@variscen/engine';
import { namedFor } from '../files/cullPlans.ts';
import { halvedTexture } from '../files/halvedTexture.ts';
import { openScene } from './openScene.ts';
import { SplitMeshes, cutsOf, withoutUnreached } from './splitMeshes.ts';
import type { SplitOutcome, SplitTask } from './tasks.ts';

/** Of the time it takes, before the first mesh is written. */
const CHOSEN_SHARE = 0.05;
/** Packing, once all is there. */
const PACKED_SHARE = 0.05;

export async function runSplit(t: SplitTask, onProgress: (fraction: number) => void): Promise<SplitOutcome> {
  const { asset, document: scene, motion, state } = await openScene(t);
  const named = await namedFor(t.cameras[0]!, asset);
  const evidence = t.evidence === null ? null : (JSON.parse(await readFile(t.evidence, 'utf8')) as CullEvidence);
  const unmet = new Set(evidence?.unmet);

  // 1. What is kept at any of the frames
  const paths = new Set<string>();
  /** Those that are simplified at all of them may be so. */
  const whole = new Set<string>();
  let objects = 0;
  for (const camera of t.cameras) {
    const look = new Look(poseFor(scene, motion, camera).now.document, undefined, state);
    const { nodes } = look.document;
    const isNeeded = ({ keep, reason, node }: Verdict) =>
      keep && (reason === 'pinned' || reason === 'gives-light' || !unmet.has(nodes[node]!.path));
    const { verdicts } = look.through(camera, named);
    for (const v of verdicts) {
      if (!isNeeded(v)) continue;
      const { path } = nodes[v.node]!;
      paths.add(path);
      if (!isSimplified(v)) whole.add(path);
    }
    objects = Math.max(objects, look.through(uncut(camera)).verdicts.filter((v) => v.keep).length);
  }

  // 2. As it stands at the first of them
  const pose = poseFor(scene, motion, t.cameras[0]!).now;
  const look = new Look(pose.document, undefined, state);
  const keep = new Set(look.document.nodes.flatMap((n, i) => (n.parts && paths.has(n.path) ? [i] : [])));
  const shown = look.through(uncut(t.cameras[0]!)).verdicts.flatMap((v) => (v.keep ? [v.node] : []));
  const known = t.isEveryFrameMeasured ? evidence : null;
  const cuts = await cutsOf(known, look.document, keep);
  const document = withoutUnreached(look.document, cuts);
  const split = splitDocument({ document, state, keep, camera: { name: t.cameraName, settings: pose.camera } });
  const levels = evidence ? neededLevels(evidence, t.cameras[0]!) : new Map<string, number>();
  const materials = t.changes.filter((c) => propertyOf(c.property)?.facet === 'materials');

  // 3. Into the file
  const meshes = new SplitMeshes(asset, document, simplifiedOnly(named?.standIns, document, whole), cuts);
  const triangles: number[] = [];
  const [inAll, weightOf] = weights(split.document);
  let done = 0;
  onProgress(CHOSEN_SHARE);
  try {
    const { bytes } = await exportScene(
      split.document,
      [{ id: 'base', name: 'Base', kind: 'base', changes: materials }],
      [],
      {
        geometry: async (i) => {
          const geometry = await meshes.of(split.meshes[i]!);
          triangles[i] = geometry.indices.length / 3;
          done += weightOf(i);
          onProgress(CHOSEN_SHARE + (1 - CHOSEN_SHARE - PACKED_SHARE) * (done / inAll));
          return geometry;
        },
        image: imagesOf(asset, look.through(t.cameras[0]!), levels),
      },
    );
    await writeFile(t.file, bytes);
    return {
      bytes: bytes.length,
      objects: keep.size,
      ofObjects: objects,
      triangles: placed(split.document.nodes, (mesh) => triangles[mesh] ?? 0),
      ofTriangles: placed(
        shown.map((node) => look.document.nodes[node]!),
        (mesh) => look.document.meshes[mesh]!.triangles,
      ),
    };
  } finally {
    await meshes.close();
  }
}
/** How long its meshes take, all of them and each: as they have triangles. */
function weights({ meshes }: Pick<SceneDocument, 'meshes'>): [number, (mesh: number) => number] {
  const weightOf = (mesh: number) => 1 + meshes[mesh]!.triangles;
  return [meshes.reduce((sum, _, mesh) => sum + weightOf(mesh), 0), weightOf];
}
const placed = (nodes: readonly SceneNode[], trianglesOf: (mesh: number) => number): number =>
  nodes.reduce((sum, n) => (n.parts ?? []).reduce((own, p) => own + trianglesOf(p.mesh), sum), 0);

/** Of meshes that may be simplified those that nothing shows that is not. @param whole paths of what is not */
function simplifiedOnly(
  standIns: NamedObjects['standIns'] | undefined,
  { nodes, meshes }: SceneDocument,
  whole: ReadonlySet<string>,
): NamedObjects['standIns'] {
  const only = new Map(standIns);
  for (const n of nodes) if (whole.has(n.path)) for (const p of n.parts ?? []) only.delete(meshes[p.mesh]!.blob);
  return only;
}

/** Images no finer than rays look them up; those of which nothing is known as they are. */
function imagesOf(
  asset: (hash: string) => Promise<Uint8Array>,
  { textures, materials }: Pick<CameraView, 'textures' | 'materials'>,
  levels: ReadonlyMap<string, number>,
): (hash: string) => Promise<Uint8Array> {
  const srgb = srgbTextures(materials);
  const colours = new Set(textures.filter((_, i) => srgb.has(i)).map((x) => x.blob));
  const known = new Map(textures.map((x) => [x.blob, x]));
  return async (hash) => {
    const texture = known.get(hash);
    const image = await asset(hash);
    return texture ? halvedTexture(texture, image, levels.get(hash) ?? 0, colours.has(hash)) : image;
  };
}
