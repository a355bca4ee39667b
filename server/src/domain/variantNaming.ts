// Variants that are named from their options follow them.
import { variantName } from '@variscen/core/looks';
import type { EntityManager } from 'typeorm';
import { Options, Projects, Variants } from '../db/entities/index.ts';

/** Variants that were not named by hand follow their options' names and the template. */
export async function renameVariants(m: EntityManager, projectId: string): Promise<void> {
  const options = new Map((await m.findBy(Options, { projectId })).map((o) => [o.id, o]));
  const { variantTemplate } = await m.findOneByOrFail(Projects, { id: projectId });
  for (const v of await m.findBy(Variants, { projectId, namedByHand: false })) {
    const name = variantName(
      variantTemplate,
      v.optionIds.map((id) => options.get(id)).filter((o) => o !== undefined),
    );
    if (name !== v.name) await m.update(Variants, { id: v.id }, { name });
  }
}
