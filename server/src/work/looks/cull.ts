// What a camera leaves out, by what was measured of it.
import { readFile, rm } from 'node:fs/promises';
import { AppError } from '@variscen/contract';
import {
  type CullEvidence,
  leftOutBy,
  mergeEvidence,
  packCullPlan,
  planFor,
  sharpened,
  standInsFor,
  standInsText,
  unpackMet,
} from '@variscen/core/cull';
import { type SceneIndex, originalPath } from '@variscen/core/looks';
import { sha256 } from '../../files/store.ts';
import type { LooksAnswers, LooksAsk, MeasuredLook } from '../looksTasks.ts';
import { store } from './reach.ts';
import { load } from './loaded.ts';

/** @throws AppError DAMAGED of a file that is not what was written; it is gone then, and can be measured again */
async function evidenceOf(file: string): Promise<CullEvidence> {
  try {
    return JSON.parse(await readFile(file, 'utf8')) as CullEvidence;
  } catch {
    await rm(file, { force: true });
    throw new AppError('DAMAGED', 'What was measured is damaged in the data folder.', 'Measure it again.');
  }
}
/** With what renders of the same pictures tell beside it. */
export async function evidenceIn(
  all: readonly MeasuredLook[],
  { nodes, document }: SceneIndex,
): Promise<CullEvidence[]> {
  const looks: CullEvidence[] = [];
  for (const { file, met } of all) {
    const own = await evidenceOf(file);
    const isMet = met === null ? () => false : unpackMet(met, document.nodes.length);
    const isKnownMet = (path: string): boolean => {
      const node = nodes.get(originalPath(path));
      return node !== undefined && isMet(node);
    };
    looks.push(sharpened(own, isKnownMet));
  }
  return looks;
}

export async function cullPlan({
  projectId,
  asked,
  evidence,
  standIns,
}: Extract<LooksAsk, { kind: 'cullPlan' }>): Promise<LooksAnswers['cullPlan']> {
  const { index } = await load(projectId);
  const looks = await evidenceIn(evidence, index);
  const from = evidence.map((e) => e.variant);
  const plan = planFor(asked, looks.length ? mergeEvidence(looks) : null, index.document, from, standIns);
  const hashOf = (names: readonly string[]) =>
    names.length ? sha256(new TextEncoder().encode(names.join('\n'))) : null;
  return {
    plan: await store.put(packCullPlan(plan)),
    leaveOut: hashOf(leftOutBy(plan)),
    keep: hashOf([...plan.keep].sort()),
    standIns: Object.keys(plan.standIns).length ? sha256(new TextEncoder().encode(standInsText(plan.standIns))) : null,
  };
}

/** Meshes that may be simplified for a camera. */
export async function standInsWanted({
  projectId,
  asked,
  evidence,
}: Extract<LooksAsk, { kind: 'standIns' }>): Promise<LooksAnswers['standIns']> {
  const { index, sceneHash } = await load(projectId);
  const looks = await evidenceIn(evidence, index);
  return { sceneHash, wanted: looks.length ? [...standInsFor(asked, mergeEvidence(looks), index.document)] : [] };
}
