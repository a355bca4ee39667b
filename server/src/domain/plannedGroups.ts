// Cells of a plan put together by the traces that serve them: those that differ in grade alone, and those that differ
// in light.
import type { Project } from '@variscen/contract';
import type { Inputs } from '@variscen/core/looks';
import { type Aov, type Profile, type TraceGroup, frameSize, keepsEachLight, shareTraces } from '@variscen/core/plan';
import { croppedPx } from '@variscen/core/scene';
import { sha256 } from '../files/store.ts';
import type { PictureRef } from '../work/looksTasks.ts';
import type { SharedTrace } from '../work/sharedTraces.ts';
import type { NamedCell } from './plannedNames.ts';

export interface PlannedCell extends NamedCell {
  readonly inputs: Inputs;
  readonly hash: string;
  readonly traceHash: string;
  /** As it holds for this cell. */
  readonly profile: Profile;
}
/** Cells that one trace serves, lighting after lighting. */
export interface PlannedGroup {
  readonly hash: string;
  readonly cells: readonly (PlannedCell & { readonly lighting: number })[];
  /** What the trace is made from. */
  readonly inputs: Inputs;
  /** The first cell of each lighting. */
  readonly lightings: readonly PlannedCell[];
}

/** Parts of light that a trace keeps apart, and what of a machine's budget they may take together. */
const MOST_PARTS = 16;
const PARTS_SHARE = 0.25;
const OF_LIGHT: ReadonlySet<Aov> = new Set(['emission', 'direct', 'indirect']);
/** A pixel of a part: its sums, and what denoising and judging noise take beside them. */
function partBytes({ denoise, noise, aovs }: Profile): number {
  const wanted = [
    true,
    denoise > 0 || noise !== null,
    denoise > 0 || aovs.some((aov) => OF_LIGHT.has(aov)),
    aovs.includes('direct') || aovs.includes('indirect'),
  ];
  return wanted.filter(Boolean).length * 12;
}

/**
 * Which pictures may share a trace, and of how many parts its light may be.
 * @param profiles of each picture
 */
export function sharingOf(p: Project, refs: readonly PictureRef[], profiles: readonly Profile[], budgetBytes: number) {
  const cameras = new Map(p.cameras.map((c) => [c.id, c.settings as Inputs['camera']]));
  const texts = oncePer((profile: Profile) => JSON.stringify(profile));
  let mostBytes = 1;
  refs.forEach(({ cameraId }, i) => {
    const camera = cameras.get(cameraId);
    if (!camera) return;
    const { widthPx, heightPx } = croppedPx(frameSize(profiles[i]!, camera), camera.crop);
    mostBytes = Math.max(mostBytes, widthPx * heightPx * partBytes(profiles[i]!));
  });
  const room = Math.floor((budgetBytes * PARTS_SHARE) / mostBytes);
  // what keeps each light by itself is mixed afterwards
  const apart = profiles.map((p, i) => (keepsEachLight(p) ? `${texts(p)} ${i}` : texts(p)));
  return { apart, mostParts: Math.min(MOST_PARTS, Math.max(0, room)) };
}

/** Groups of cells that one trace serves, put together where they differ in light alone. */
export function togetherIn(
  groups: readonly TraceGroup<PlannedCell>[],
  cells: readonly PlannedCell[],
  shared: readonly SharedTrace[],
): PlannedGroup[] {
  const hashOfPlace = (place: number) => cells[place]!.traceHash;
  const sets = shared.map((s) => s.places.map(hashOfPlace));
  const values = new Map(shared.map((s, i) => [sets[i]![0], s.values]));
  return shareTraces(groups, sets).map(({ hash, lightings }) => {
    const [first] = lightings[0]!.cells as [PlannedCell];
    const all = lightings.length > 1 ? values.get(hash)! : first.inputs.values;
    return {
      hash: lightings.length > 1 ? sha256(new TextEncoder().encode(lightings.map((l) => l.hash).join())) : hash,
      cells: lightings.flatMap((l, lighting) => l.cells.map((cell) => ({ ...cell, lighting }))),
      inputs: { ...first.inputs, values: all },
      lightings: lightings.map((l) => l.cells[0]!),
    };
  });
}

/** One answer for one object, so that what is sent on shares what it was made from. */
export function oncePer<K extends object, T>(of: (x: K) => T): (x: K) => T {
  const known = new Map<K, T>();
  return (x) => {
    if (!known.has(x)) known.set(x, of(x));
    return known.get(x) as T;
  };
}
