// Options: named, sparse sets of changes of one facet.
import { AppError, type Project, type Tag } from '@variscen/contract';
import { type Change, type Facet, propertyOf } from '@variscen/core/looks';
import type { EntityManager } from 'typeorm';
import { type OptionRow, Options, Pendings, Variants } from '../db/entities/index.ts';
import { changeOne, dropUndefined, putInOrder, removeOne } from './edits.ts';
import type { ProjectService } from './projects.ts';
import { insertOption, optionOf } from './optionRows.ts';
import { renameVariants } from './variantNaming.ts';
import { type VariantLike, insertVariantWith } from './variants.ts';

const LONGEST_NAME = 120;

export class OptionService {
  constructor(private readonly projects: ProjectService) {}

  create(projectId: string, facet: Facet, name: string, changes: readonly Change[]): Promise<Project> {
    checkFacet(facet, changes);
    return this.projects.write(projectId, `Make option ${name}`, async (m) => {
      await insertOption(m, projectId, facet, name, changes);
    });
  }

  /** As one edit. A name that is taken gets a number. */
  async createTogether(
    projectId: string,
    wanted: readonly { readonly facet: Facet; readonly name: string; readonly changes: readonly Change[] }[],
    variant: VariantLike | undefined,
  ): Promise<{ project: Project; optionIds: string[]; variantId: string | null }> {
    for (const { facet, changes } of wanted) checkFacet(facet, changes);
    const optionIds: string[] = [];
    let variantId: string | null = null;
    const names = [...new Set(wanted.map((o) => o.name))].join(' and ');
    const project = await this.projects.write(projectId, `Make ${names}`, async (m) => {
      const all = await inOrder(m, projectId);
      for (const { facet, name, changes } of wanted) {
        const taken = new Set(all.filter((o) => o.facet === facet).map((o) => o.name.toLowerCase()));
        const free = taken.has(name.toLowerCase()) ? freeName(name, taken) : name;
        optionIds.push(await insertOption(m, projectId, facet, free, changes));
      }
      if (variant) variantId = await insertVariantWith(m, projectId, variant, optionIds);
    });
    return { project, optionIds, variantId };
  }

  async update(
    projectId: string,
    id: string,
    set: {
      name?: string | undefined;
      changes?: Change[] | undefined;
      notes?: string | undefined;
      tag?: Tag | null | undefined;
    },
  ): Promise<Project> {
    let label = 'Tag';
    if (set.name !== undefined) label = `Rename an option to ${set.name}`;
    else if (set.changes) label = 'Change';
    else if (set.notes !== undefined) label = 'Write notes of';
    return this.projects.write(projectId, label, async (m) => {
      const option = await optionOf(m, projectId, id);
      if (set.changes) checkFacet(option.facet, set.changes);
      await changeOne(m, Options, { id, projectId }, dropUndefined(set), 'option');
      if (set.name !== undefined) await renameVariants(m, projectId);
      return set.name === undefined ? `${label} option ${option.name}` : label;
    });
  }

  /** Right after the first, with all that it holds. */
  async duplicate(projectId: string, id: string, name: string | undefined): Promise<{ project: Project; id: string }> {
    let made = '';
    const project = await this.projects.write(projectId, 'Duplicate an option', async (m) => {
      const option = await optionOf(m, projectId, id);
      const all = await inOrder(m, projectId);
      const taken = new Set(all.filter((o) => o.facet === option.facet).map((o) => o.name.toLowerCase()));
      made = await insertOption(
        m,
        projectId,
        option.facet,
        name ?? freeName(option.name, taken),
        option.changes,
        option,
      );
      const ids = all.map((o) => o.id);
      ids.splice(ids.indexOf(id) + 1, 0, made);
      await putInOrder(m, Options, projectId, ids);
      return `Duplicate option ${option.name}`;
    });
    return { project, id: made };
  }

  /** The named ones take each other's places; all others stay where they are. */
  order(projectId: string, ids: readonly string[]): Promise<Project> {
    return this.projects.write(projectId, 'Put the options in order', async (m) => {
      const all = (await inOrder(m, projectId)).map((o) => o.id);
      const next = ids.filter((id) => all.includes(id));
      const moved = new Set(next);
      await putInOrder(
        m,
        Options,
        projectId,
        all.map((id) => (moved.has(id) ? next.shift()! : id)),
      );
    });
  }

  remove(projectId: string, id: string, fromVariants: boolean): Promise<Project> {
    return this.projects.write(projectId, 'Delete an option', async (m) => {
      const users = (await m.find(Variants, { where: { projectId }, order: { ordinal: 'ASC' } })).filter((v) =>
        v.optionIds.includes(id),
      );
      if (users.length && !fromVariants)
        throw new AppError(
          'IN_USE',
          `The option is used by ${users.length === 1 ? 'the variant' : `${users.length} variants:`} ${users.map((v) => `“${v.name}”`).join(', ')}.`,
        );
      const option = await optionOf(m, projectId, id);
      await removeOne(m, Options, { id, projectId }, 'option');
      await m.delete(Pendings, { projectId, destination: `option:${id}` });
      for (const v of users) await m.update(Variants, { id: v.id }, { optionIds: v.optionIds.filter((x) => x !== id) });
      if (users.length) await renameVariants(m, projectId);
      return `Delete option ${option.name}`;
    });
  }
}

export function checkFacet(facet: Facet, changes: readonly Change[]): void {
  const wrong = changes.find((x) => propertyOf(x.property)?.facet !== facet);
  if (wrong)
    throw new AppError(
      'INVALID',
      `“${propertyOf(wrong.property)?.label ?? wrong.property}” does not belong to the facet ${facet}.`,
      'Record it in an option of its own facet.',
    );
}
/** “Lanterns 2”, “Lanterns 3” … */
export function freeName(name: string, taken: ReadonlySet<string>): string {
  const stem = name.replace(/ \d+$/, '');
  for (let n = 2; ; n++) {
    const end = ` ${n}`;
    const free = stem.slice(0, LONGEST_NAME - end.length) + end;
    if (!taken.has(free.toLowerCase())) return free;
  }
}
const inOrder = (m: EntityManager, projectId: string): Promise<OptionRow[]> =>
  m.find(Options, { where: { projectId }, order: { ordinal: 'ASC' } });
