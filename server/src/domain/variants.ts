// Variants: for each facet the base or options, named from them or by hand.
import { randomUUID } from 'node:crypto';
import { AppError, type Project } from '@variscen/contract';
import { variantName } from '@variscen/core/looks';
import type { EntityManager } from 'typeorm';
import { type OptionRow, Options, Projects, Variants } from '../db/entities/index.ts';
import { changeOne, dropUndefined, namedFirst, nextOrdinal, putInOrder, removeOne } from './edits.ts';
import type { ProjectService } from './projects.ts';
import { renameVariants } from './variantNaming.ts';

interface VariantEdit {
  /** null: named from its options. */
  readonly name?: string | null | undefined;
  readonly optionIds?: string[] | undefined;
  readonly excludedCameraIds?: string[] | undefined;
  readonly notes?: string | undefined;
}

function labelOf(set: VariantEdit): string {
  if (typeof set.name === 'string') return `Rename a variant to ${set.name}`;
  if (set.name === null) return 'Name a variant from its options';
  if (set.optionIds) return 'Choose options of a variant';
  return set.excludedCameraIds ? 'Choose the cameras of a variant' : 'Write notes of a variant';
}

export class VariantService {
  constructor(private readonly projects: ProjectService) {}

  create(projectId: string, optionIds: string[], name: string | undefined): Promise<Project> {
    return this.projects.write(projectId, 'Make a variant', async (m) => {
      const id = await insertVariant(m, projectId, optionIds, name);
      return `Make variant ${await nameOf(m, id)}`;
    });
  }

  /** One edit for all; combinations that are there already are left out. */
  async createMany(
    projectId: string,
    combinations: readonly string[][],
  ): Promise<{ project: Project; variantIds: string[] }> {
    const variantIds: string[] = [];
    const project = await this.projects.write(
      projectId,
      `Make ${combinations.length === 1 ? 'a variant' : `${combinations.length} variants`} by combining`,
      async (m) => {
        const there = new Set((await m.findBy(Variants, { projectId })).map((v) => v.optionIds.join()));
        for (const ids of combinations) {
          if (there.has(ids.join())) continue;
          there.add(ids.join());
          variantIds.push(await insertVariant(m, projectId, [...ids], undefined));
        }
      },
    );
    return { project, variantIds };
  }

  update(projectId: string, id: string, set: VariantEdit): Promise<Project> {
    return this.projects.write(projectId, labelOf(set), async (m) => {
      if (set.optionIds) await ownOptions(m, projectId, set.optionIds);
      const { name, ...rest } = set;
      await changeOne(
        m,
        Variants,
        { id, projectId },
        {
          ...dropUndefined(rest),
          ...(typeof name === 'string' && { name, namedByHand: true }),
          ...(name === null && { namedByHand: false }),
        },
        'variant',
      );
      if (set.optionIds || name === null) await renameVariants(m, projectId);
    });
  }

  order(projectId: string, ids: readonly string[]): Promise<Project> {
    return this.projects.write(projectId, 'Put the variants in order', async (m) => {
      await putInOrder(
        m,
        Variants,
        projectId,
        namedFirst(
          (await m.find(Variants, { where: { projectId }, order: { ordinal: 'ASC' } })).map((v) => v.id),
          ids,
        ),
      );
    });
  }

  remove(projectId: string, id: string): Promise<Project> {
    return this.projects.write(projectId, 'Delete a variant', async (m) => {
      const name = await nameOf(m, id);
      await removeOne(m, Variants, { id, projectId }, 'variant');
      await m.query(`DELETE FROM pending WHERE project_id = $1 AND destination LIKE $2`, [projectId, `cell:%:${id}`]);
      return `Delete variant ${name}`;
    });
  }
}

const nameOf = async (m: EntityManager, id: string): Promise<string> =>
  (await m.findOneBy(Variants, { id }))?.name ?? '';

export async function insertVariant(
  m: EntityManager,
  projectId: string,
  optionIds: string[],
  name: string | undefined,
  excludedCameraIds: string[] = [],
): Promise<string> {
  const id = randomUUID();
  const options = await ownOptions(m, projectId, optionIds);
  const { variantTemplate } = await m.findOneByOrFail(Projects, { id: projectId });
  await m.insert(Variants, {
    id,
    projectId,
    name: name ?? variantName(variantTemplate, options),
    namedByHand: name !== undefined,
    optionIds,
    excludedCameraIds,
    notes: '',
    ordinal: await nextOrdinal(m, Variants, projectId),
  });
  return id;
}
export interface VariantLike {
  readonly fromVariantId: string;
  readonly name?: string | undefined;
}
/** With options in place of those of the same facets in another: another colour is no colour over a colour. */
export async function insertVariantWith(
  m: EntityManager,
  projectId: string,
  { fromVariantId, name }: VariantLike,
  optionIds: readonly string[],
): Promise<string> {
  const from = await m.findOneBy(Variants, { id: fromVariantId, projectId });
  if (!from) throw new AppError('NOT_FOUND', 'The variant to begin with is no longer there.');
  const facets = new Map((await m.findBy(Options, { projectId })).map((o) => [o.id, o.facet]));
  const own = new Set(optionIds.map((id) => facets.get(id)));
  const others = from.optionIds.filter((id) => !own.has(facets.get(id)));
  return insertVariant(m, projectId, [...others, ...optionIds], name, from.excludedCameraIds);
}
async function ownOptions(m: EntityManager, projectId: string, ids: readonly string[]): Promise<OptionRow[]> {
  const all = new Map((await m.findBy(Options, { projectId })).map((o) => [o.id, o]));
  return ids.map((id) => {
    const o = all.get(id);
    if (!o) throw new AppError('NOT_FOUND', 'The variant names an option that is not in this project.');
    return o;
  });
}
