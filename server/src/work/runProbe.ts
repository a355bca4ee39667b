// Traces a small picture of a cell's scene, whole or as its camera leaves it, and counts what its rays met, object by
// object and piece by piece.
import { availableParallelism } from 'node:os';
import {
  type CullEvidence,
  MEETINGS,
  type ObjectEvidence,
  detailOf,
  finestOf,
  joinedPieces,
  mergeEvidence,
  partsReached,
  sharpened,
} from '@variscen/core/cull';
import type { Profile } from '@variscen/core/plan';
import { type SceneDocument, poseFor } from '@variscen/core/scene';
import {
  type Engine,
  type EngineInstance,
  type Evidence,
  type Selection,
  WIDTHS_FROM_M,
  attach,
  brightnessOf,
  engineCamera,
  meanNits,
  select,
  settingsOf,
} from '@variscen/engine';
import { openNodeEngine } from '@variscen/engine/node';
import { namedFor } from '../files/cullPlans.ts';
import { sceneSources } from '../files/sceneSources.ts';
import type { StoredParts } from '../files/storedParts.ts';
import { writeFlushed } from '../files/writeFlushed.ts';
import { LOOKED_AT, openParts, sizeOf } from './lookedAt.ts';
import { rounded } from './digits.ts';
import { enteringIn } from './enteringIn.ts';
import { openScene } from './openScene.ts';
import { reachedIn } from './reachedIn.ts';
import type { ProbeOutcome, ProbeTask } from './tasks.ts';

/** A thing that covers less than about a thousandth of the picture may be missed directly, and not for its light. */
const WIDTH_PX = 384;
/** Levels of textures are loaded as they are looked up: which they are is to be found out. */
const PROBED: Profile = { ...LOOKED_AT, textureCapPx: null };
const SAMPLES = 64;
const SAMPLES_A_PASS = 8;
/** All pictures together; fewer samples are taken of what takes long. */
const TIME_LIMIT_S = 40;
/** What the camera sees itself, and what shadows it: in as many pixels as it has, up to so many. */
const SEEN: Profile = { ...PROBED, integrator: 'direct' };
const OWN_MOST_PX = 2048;
const OWN_SAMPLES = 2;
const OWN_TIME_LIMIT_S = 20;
/** Of what is to do, in the small size. */
const SMALL_SHARE = 0.8;

export async function runProbe(t: ProbeTask, onProgress: (fraction: number) => void): Promise<ProbeOutcome> {
  const { asset, document, motion, state } = await openScene(t);
  const parts = await openParts(t.folder, t.mostPartsBytes);
  const looks: CullEvidence[] = [];
  for (const [i, camera] of t.cameras.entries()) {
    const part = (fraction: number) => onProgress((i + fraction) / t.cameras.length);
    const selection = select(poseFor(document, motion, camera), state, false, await namedFor(camera, asset));
    looks.push(await look(selection, document, asset, parts, t, part));
  }
  await parts.trim();
  const evidence: CullEvidence = {
    ...mergeEvidence(looks),
    entering: enteringIn(t, document, motion, state),
    isOfSomeFrames: t.frames.length > t.cameras.length,
  };
  await writeFlushed(t.file, new TextEncoder().encode(JSON.stringify(evidence)));
  const { seconds, lightPaths } = evidence;
  return { seconds, lightPaths, reached: partsReached(document, evidence) };
}

async function look(
  selection: Selection,
  document: SceneDocument,
  asset: (hash: string) => Promise<Uint8Array>,
  parts: StoredParts,
  { budgetBytes, cameras }: ProbeTask,
  onProgress: (fraction: number) => void,
): Promise<CullEvidence> {
  const { camera } = selection.pose.now;
  const size = sizeOf(camera, WIDTH_PX);
  const engine = await openNodeEngine(availableParallelism());
  const taken = parts.forTrace();
  try {
    const data = taken.over(sceneSources(document, asset), document.meshes);
    const scene = await attach(selection, data, LOOKED_AT.displacement, size.heightPx);
    await taken.close();
    await engine.load(
      scene,
      { ...settingsOf(PROBED, size, selection), evidence: { finer: size.widthPx / camera.widthPx } },
      budgetBytes,
    );
    const stats = await engine.render({
      camera: engineCamera(camera),
      samples: SAMPLES,
      samplesPerPass: SAMPLES_A_PASS,
      timeLimitS: TIME_LIMIT_S / cameras.length,
      onProgress: (p) => onProgress(p.fraction * SMALL_SHARE),
    });
    const { samples, rays, seconds, paths: lightPaths } = stats;
    const found = evidenceOf(engine, selection, lightPaths);
    const lightOf = (paths: number) => meanNits(engine.picture()) * paths;
    const inSmall = await reachedIn(engine, selection, { light: lightOf(lightPaths), leastCost: 0 });

    // in its own size what is small is not missed
    const own = sizeOf(camera, OWN_MOST_PX);
    const seen = { ...settingsOf(SEEN, own, selection), evidence: { finer: own.widthPx / camera.widthPx } };
    await engine.load(scene, seen, budgetBytes);
    const inFull = await engine.render({
      camera: engineCamera(camera),
      samples: OWN_SAMPLES,
      timeLimitS: OWN_TIME_LIMIT_S / cameras.length,
      onProgress: (p) => onProgress(SMALL_SHARE + p.fraction * (1 - SMALL_SHARE)),
    });
    // what rays of this picture alone met gave less than one of the measurement's light paths shows
    const inOwn = await reachedIn(engine, selection, { light: lightOf(inFull.paths), leastCost: 1 / lightPaths });
    const pieces = joinedPieces([inSmall.pieces, inOwn.pieces]);
    const evidence = { ...size, samples, rays, seconds, lightPaths, entering: [], ...found, pieces };
    return sharpened(evidence, (path) => inOwn.objects.has(path));
  } finally {
    await taken.close();
    await engine.close();
  }
}

/** As people see it: without what it stands in. */
const nameIn = (o: Pick<EngineInstance, 'name' | 'object'> | undefined): string | undefined =>
  o && (o.object ?? o.name).split('/').at(-1);
/** Parts of an object count together. */
function evidenceOf(
  engine: Engine,
  { instances, verdicts, pose, textures }: Selection,
  lightPaths: number,
): Pick<CullEvidence, 'meanNits' | 'objects' | 'unmet' | 'textures'> {
  const mean = meanNits(engine.picture());
  const light = mean * lightPaths;
  const byPath = new Map<string, Evidence>();
  const all = engine.evidence(); // area lights come after the selection's instances
  instances.forEach((o, i) => {
    const path = o.object ?? o.name;
    const known = byPath.get(path);
    byPath.set(path, known ? sumOf(known, all[i]!) : all[i]!);
  });
  const { nodes } = pose.now.document;
  const shown = verdicts.filter((v) => v.reason !== 'hidden').map((v) => nodes[v.node]!.path);
  const nameOf = (i: number | null) => nameIn(i === null ? undefined : instances[i]);
  const isMet = (path: string) => Object.values(byPath.get(path)?.times ?? {}).some((n) => (n as number) > 0);
  return {
    meanNits: mean,
    objects: shown.filter(isMet).map((path): ObjectEvidence => {
      const e = byPath.get(path)!;
      const [mirror, glass] = [nameOf(e.mirror), nameOf(e.glass)];
      const by = { ...(mirror && { mirror }), ...(glass && { glass }) };
      return { ...objectOf(path, e, lightPaths, light, mean), ...by };
    }),
    unmet: shown.filter((path) => !isMet(path)),
    textures: finestOf(engine.finestLevels().map((finest, i) => ({ image: textures[i]!.blob, finest }))),
  };
}
function objectOf(path: string, e: Evidence, paths: number, light: number, mean: number): ObjectEvidence {
  const ofLight = (nits: number) => (light > 0 ? rounded(nits / light) : 0);
  const ofSight = (throughput: number) => rounded(throughput / paths);
  return {
    path,
    times: e.times,
    sight: {
      seen: ofSight(e.seen),
      reflected: ofSight(e.reflected),
      refracted: ofSight(e.refracted),
      bounced: ofSight(e.bounced),
    },
    brought: Math.max(0, ofLight(e.brought)),
    shadowed: ofLight(e.shadowed),
    lit: ofLight(e.lit),
    nits: rounded(brightnessOf(e, mean)),
    detailM: detailOf(e.widths, WIDTHS_FROM_M),
  };
}
function sumOf(a: Evidence, b: Evidence): Evidence {
  const times = Object.fromEntries(MEETINGS.map((k) => [k, a.times[k] + b.times[k]])) as unknown as Evidence['times'];
  const sums = Object.fromEntries(MEETINGS.map((k) => [k, a[k] + b[k]])) as unknown as Evidence['times'];
  return {
    ...sums,
    brought: a.brought + b.brought,
    widths: a.widths.map((n, i) => n + b.widths[i]!),
    times,
    mirror: (a.reflected >= b.reflected ? a : b).mirror,
    glass: (a.refracted >= b.refracted ? a : b).glass,
  };
}
