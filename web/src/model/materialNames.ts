// Materials that a look makes as copies of the scene's.
import type { Project } from '@variscen/contract';
import type { Change } from '@variscen/core/looks';

/** Names of materials that looks copied, wherever they are recorded: “Copper#2”. */
export function copiedMaterials(p: Pick<Project, 'base' | 'options' | 'patches' | 'pending'>): string[] {
  const out = new Set<string>();
  const look = (c: Change) => {
    const isWorn = c.property === 'object.material' && typeof c.value === 'string';
    const edited = c.target.startsWith('material:') ? c.target.slice('material:'.length) : '';
    const name = isWorn ? (c.value as string) : edited;
    if (/#\d+$/.test(name)) out.add(name);
  };
  for (const list of [
    p.base,
    ...p.options.map((o) => o.changes),
    ...p.patches.map((x) => x.changes),
    ...p.pending.map((x) => x.changes),
  ])
    for (const c of list) look(c as Change);
  return [...out];
}
/** A name for another copy. */
export function nextCopy(name: string, taken: readonly string[]): string {
  const stem = name.replace(/#\d+$/, '');
  for (let n = 2; ; n++) if (!taken.includes(`${stem}#${n}`)) return `${stem}#${n}`;
}
