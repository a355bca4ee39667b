// Which layers make a cell's state, in order of force. The server and the browser both ask here.
import type { Facet } from './facets.ts';
import { type Change, type Layer, mergeChanges } from './resolve.ts';

export interface LookSources {
  readonly base: readonly Change[];
  readonly options: readonly {
    readonly id: string;
    readonly facet: Facet;
    readonly name: string;
    readonly changes: readonly Change[];
  }[];
  readonly patches: readonly {
    readonly cameraId: string;
    readonly variantId: string | null;
    readonly changes: readonly Change[];
  }[];
}
/** Edits not yet kept, by destination: “base”, “option:ID”, “camera:ID”, “cell:CAMERA:VARIANT”. */
export type PendingEdits = readonly { readonly destination: string; readonly changes: readonly Change[] }[];

export function layersOf(
  p: LookSources,
  variant: { readonly id: string; readonly optionIds: readonly string[] },
  cameraId: string,
  pending: PendingEdits = [],
): Layer[] {
  const layer = (id: string, name: string, kind: Layer['kind'], changes: readonly Change[], facet?: Facet): Layer => {
    const edits = pending.find((x) => x.destination === id);
    return { id, name, kind, facet, changes: edits ? mergeChanges(changes, edits.changes) : changes };
  };
  const options = variant.optionIds.map((id) => p.options.find((o) => o.id === id)).filter((o) => o !== undefined);
  const patch = (variantId: string | null) =>
    p.patches.find((x) => x.cameraId === cameraId && x.variantId === variantId)?.changes ?? NOTHING;
  return [
    layer('base', 'Base', 'base', p.base),
    ...options.map((o) => layer(`option:${o.id}`, o.name, 'option', o.changes, o.facet)),
    layer(`camera:${cameraId}`, 'this camera only', 'patch', patch(null)),
    layer(`cell:${cameraId}:${variant.id}`, 'this camera in this variant only', 'patch', patch(variant.id)),
  ];
}
/** The same list every time, so that nothing looks changed by it. */
const NOTHING: readonly Change[] = [];
