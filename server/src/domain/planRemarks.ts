// What a plan says of looks that cannot be rendered as they are recorded, by the cells and the things that it is about.
import type { Plan, Project } from '@variscen/contract';
import { type Inputs, type LookRemarks, propertyOf, targetLabel } from '@variscen/core/looks';
import type { NotSound } from '../work/looksTasks.ts';
import type { NamedCell } from './plannedNames.ts';

type Errors = Plan['errors'];
interface Remarked {
  readonly remarks: LookRemarks;
}
const CELLS_NAMED = 3;

export function excludedCells(p: Project, cells: readonly NamedCell[]): Errors {
  return cells
    .filter((c) => p.variants.find((v) => v.id === c.variantId)?.excludedCameraIds.includes(c.cameraId))
    .map((c) => ({ message: `“${c.variantName}” leaves out the camera “${c.cameraName}”.`, path: null }));
}

/** Of what does not fit in the budget. @param times as long it takes, about; null: it was not measured */
export function turnsRemark(cameraName: string, times: number | null): string {
  const fit = `${cameraName}: not all of its meshes and textures fit in the budget.`;
  if (times === null)
    return `${fit} If rays reach more than there is room for, they are loaded in turns: the same picture, and it takes several times as long, or many times. Measure the view to know, raise the budget of the machine, or cull objects.`;
  return `${fit} What rays reach of them is loaded in turns: the same picture, and it takes about ${Number(times.toPrecision(2))} times as long. Raise the budget of the machine, or cull objects.`;
}

/** Of what is refused since hardly any of it has room. @param times as long it would take; null: it was not measured */
export const tightRemark = (refusal: string, times: number | null): string =>
  times === null ? `${refusal} Rays may need little of it: measuring the view tells.` : refusal;

/** Materials and choices that are recorded and not there. */
export function unknownValues(cells: readonly NamedCell[], found: readonly Remarked[]): Errors {
  const by = byMessage(cells, found, ({ remarks }) =>
    remarks.unknown.map(({ target, property, value }) => {
      const what = propertyOf(property)?.label.toLowerCase() ?? property;
      return `“${targetLabel(target)}” has the ${what} “${value}”, which is not there. Give it another, or clear the value`;
    }),
  );
  return [...by].map(([message, where]) => ({ message: `${message} (${namesOf(where)}).`, path: null }));
}

/** Files that looks bring: environment maps, LUTs, images. */
export function damagedFiles(
  cells: readonly NamedCell[],
  found: readonly Remarked[],
  notSound: readonly NotSound[],
): Errors {
  const faults = new Map(notSound.map((x) => [x.hash, x.fault]));
  const by = byMessage(cells, found, ({ remarks }) =>
    remarks.files.flatMap(({ hash, name, kind }) => {
      const fault = faults.get(hash);
      return fault ? [`The ${kind} “${name}” ${WORDS[fault]}. Import it again, or use another`] : [];
    }),
  );
  return [...by].map(([message, where]) => ({ message: `${message} (${namesOf(where)}).`, path: null }));
}
/** Lists of what cameras leave out. */
export function damagedCullPlans(
  cells: readonly (NamedCell & { readonly inputs: Inputs })[],
  notSound: readonly NotSound[],
): Errors {
  const faults = new Map(notSound.map((x) => [x.hash, x.fault]));
  const named = new Map<string, string>();
  for (const { cameraName, inputs } of cells) {
    const fault = faults.get(inputs.camera.cull?.plan ?? '');
    if (fault) named.set(cameraName, WORDS[fault]);
  }
  return [...named].map(([camera, words]) => ({
    message: `The list of what “${camera}” leaves out ${words}. Make it again in Cull.`,
    path: null,
  }));
}
export const WORDS: Readonly<Record<NotSound['fault'], string>> = {
  gone: 'is missing from the data folder',
  damaged: 'is damaged in the data folder',
};

/** What is recorded for objects that the scene does not have, in words. */
export function vanishedTargets(found: readonly Remarked[]): string[] {
  const values = new Map<string, number>();
  for (const { remarks } of found)
    for (const v of remarks.vanished) values.set(v.target, Math.max(v.values, values.get(v.target) ?? 0));
  return [...values].map(
    ([target, n]) =>
      `“${targetLabel(target)}” is not in the scene: ${n === 1 ? 'a value that is recorded for it counts' : `${n} values that are recorded for it count`} for nothing.`,
  );
}

function byMessage(
  cells: readonly NamedCell[],
  found: readonly Remarked[],
  messages: (of: Remarked) => readonly string[],
): Map<string, NamedCell[]> {
  const by = new Map<string, NamedCell[]>();
  for (const [i, cell] of cells.entries())
    for (const m of messages(found[i]!)) {
      const named = by.get(m);
      if (named) named.push(cell);
      else by.set(m, [cell]);
    }
  return by;
}
function namesOf(cells: readonly NamedCell[]): string {
  const all = [...new Set(cells.map((c) => `${c.cameraName} in ${c.variantName}`))];
  const names = all.slice(0, CELLS_NAMED);
  const more = all.length - names.length;
  return names.join(', ') + (more ? ` and ${more} more` : '');
}
