// Where edits can go, and what is pending and recorded there.
import type { Project, Variant } from '@variscen/contract';
import { type Change, type Facet, FACETS, keyOf, optionTitle, propertyOf } from '@variscen/core/looks';

export interface Destination {
  readonly id: string;
  readonly label: string;
  readonly facet: Facet | undefined;
}
/**
 * Where edits are said to go. isHere: it is one of what is shown; otherwise nothing is recorded there without a
 * question.
 */
export interface CurrentDestination extends Destination {
  readonly isHere: boolean;
}

/**
 * The destination of an address. One that the camera and variant shown do not have stays what it is: it is never
 * another in silence.
 */
export function destinationOf(
  p: Project,
  here: readonly Destination[],
  id: string | null,
): CurrentDestination | undefined {
  const found = id === null ? here[0] : here.find((d) => d.id === id);
  if (found) return { ...found, isHere: true };
  return id === null ? undefined : { id, label: destinationLabel(p, id), facet: undefined, isHere: false };
}

export function destinationsOf(p: Project, cameraId: string, variant: Variant): Destination[] {
  return [
    { id: 'base', label: 'the base', facet: undefined },
    ...FACETS.flatMap((f) =>
      p.options.filter((o) => o.facet === f).map((o) => ({ id: `option:${o.id}`, label: optionTitle(o), facet: f })),
    ),
    ...(cameraId
      ? [
          { id: `camera:${cameraId}`, label: 'this camera only', facet: undefined },
          { id: `cell:${cameraId}:${variant.id}`, label: 'this camera in this variant only', facet: undefined },
        ]
      : []),
  ];
}
/** Whether a change may be recorded in a destination: an option takes its own facet only. */
export const fits = (change: Change, d: Destination): boolean =>
  d.facet === undefined || propertyOf(change.property)?.facet === d.facet;
export const pendingOf = (p: Project, destination: string): Change[] =>
  (p.pending.find((x) => x.destination === destination)?.changes ?? []) as Change[];
export const isPending = (p: Project, destination: string, target: string, property: string): boolean =>
  pendingOf(p, destination).some((c) => keyOf(c.target, c.property) === keyOf(target, property));

/** Where something is recorded or pending, in words that hold in any camera and variant. */
export function destinationLabel(p: Project, id: string): string {
  const [kind, a, b] = id.split(':');
  const camera = () => p.cameras.find((c) => c.id === a)?.name ?? 'a camera that is gone';
  if (kind === 'base') return 'the base';
  if (kind === 'option') {
    const o = p.options.find((x) => x.id === a);
    return o ? optionTitle(o) : 'an option that is gone';
  }
  return kind === 'camera'
    ? `${camera()} only`
    : `${camera()} in ${p.variants.find((v) => v.id === b)?.name ?? 'a variant that is gone'} only`;
}
export function recordedIn(p: Project, destination: string): readonly Change[] {
  const [kind, a, b] = destination.split(':');
  if (kind === 'base') return p.base as Change[];
  if (kind === 'option') return (p.options.find((o) => o.id === a)?.changes ?? []) as Change[];
  return (p.patches.find((x) => x.cameraId === a && x.variantId === (kind === 'cell' ? b : null))?.changes ??
    []) as Change[];
}
