// What cells would be rendered from.
import { type LookRemarks, type ResolvedState, type SceneIndex, remarksOf } from '@variscen/core/looks';
import { contentOf } from '../../files/sceneContent.ts';
import { notSoundOf } from '../../files/store.ts';
import type { LooksAnswers, LooksAsk, PictureRef } from '../looksTasks.ts';
import { type Lighting, type SharedTrace, sharedTraces } from '../sharedTraces.ts';
import { type Loaded, LooksNow, load } from './loaded.ts';
import { store } from './reach.ts';

type CellsAsk = Extract<LooksAsk, { kind: 'cells' }>;
type CellNow = LooksAnswers['cells']['cells'][number] & { readonly state: ResolvedState };

/** What cells would be rendered from, and what of it is damaged or gone. */
export async function cells({ projectId, refs, sharing }: CellsAsk): Promise<LooksAnswers['cells']> {
  const l = await load(projectId);
  const now = cellsOf(l, refs);
  const shared = sharing ? sharedOf(l.index, now, sharing) : [];
  const files = now.flatMap((x) => x.remarks.files.map((f) => f.hash));
  const ofScene = [...contentOf(l.index.document)].map(([hash]) => hash);
  const plans = now.flatMap((x) => x.inputs.camera.cull?.plan ?? []);
  const notSound = await notSoundOf(store, [...ofScene, ...files, ...plans]);
  return { cells: now.map(({ state: _, ...cell }) => cell), shared, notSound };
}

/**
 * Values and remarks of cells in one look are one object, here and where they arrive, so that thousands of cells are as
 * small as their looks.
 */
export function cellsOf(l: Loaded, refs: readonly PictureRef[]): readonly CellNow[] {
  const looks = new LooksNow(l);
  const said = new Map<unknown, LookRemarks>();
  return refs.map((ref) => {
    const { look, variant, settings, inputs } = looks.of(ref);
    const remarks = said.get(look) ?? remarksOf(look.state);
    said.set(look, remarks);
    const { cell: hash, trace } = l.hashes.of(l.sources, variant, { id: ref.cameraId, settings });
    return { inputs, hash, traceHash: trace, remarks, state: look.state };
  });
}

/** Of pictures whose traces differ, which one trace can serve. */
function sharedOf(
  scene: SceneIndex,
  cells: readonly CellNow[],
  { apart, mostParts }: NonNullable<CellsAsk['sharing']>,
): SharedTrace[] {
  const first = new Map<string, Lighting>();
  cells.forEach(({ inputs, state, traceHash }, place) => {
    const key = `${traceHash} ${apart[place]!}`;
    if (!first.has(key)) first.set(key, { place, inputs, state, apart: apart[place]! });
  });
  return sharedTraces(scene, [...first.values()], mostParts);
}
