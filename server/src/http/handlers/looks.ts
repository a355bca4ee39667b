// Options, variants, and edits that are pending or recorded.
import type { LOOKS_ROUTES } from '@variscen/contract';
import type { Handlers } from '../handler.ts';
import { byId } from '../byId.ts';
import type { Services } from '../services.ts';

export const looksHandlers = ({
  options,
  variants,
  pending,
  addedLights,
}: Services): Handlers<typeof LOOKS_ROUTES> => ({
  createOption: async ({ params, body }) =>
    (await options.create(params.projectId, body.facet, body.name, body.changes ?? [])).options.at(-1)!,
  createOptions: ({ params, body }) => options.createTogether(params.projectId, body.options, body.variant),
  duplicateOption: async ({ params, body }) => {
    const d = await options.duplicate(params.projectId, params.optionId, body.name);
    return byId(d.project.options, d.id);
  },
  orderOptions: ({ params, body }) => options.order(params.projectId, body.optionIds),
  updateOption: async ({ params, body }) =>
    byId((await options.update(params.projectId, params.optionId, body)).options, params.optionId),
  deleteOption: async ({ params, query }) => {
    await options.remove(params.projectId, params.optionId, query.fromVariants === 'yes');
    return {};
  },
  createVariant: async ({ params, body }) =>
    (await variants.create(params.projectId, body.optionIds, body.name)).variants.at(-1)!,
  createVariants: ({ params, body }) => variants.createMany(params.projectId, body.combinations),
  updateVariant: async ({ params, body }) =>
    byId((await variants.update(params.projectId, params.variantId, body)).variants, params.variantId),
  orderVariants: ({ params, body }) => variants.order(params.projectId, body.variantIds),
  deleteVariant: async ({ params }) => {
    await variants.remove(params.projectId, params.variantId);
    return {};
  },
  editPending: ({ params, body }) => pending.edit(params.projectId, body.destination, body.set, body.clear),
  movePending: ({ params, body }) => pending.move(params.projectId, body.from, body.to, body.only),
  keepPending: ({ params, body }) => pending.keep(params.projectId, body.destination, body),
  editRecorded: ({ params, body }) => pending.editRecorded(params.projectId, body.destination, body.set, body.clear),
  renameLight: ({ params, body }) => addedLights.rename(params.projectId, body.path, body.name),
  removeLights: ({ params, body }) => addedLights.remove(params.projectId, body.paths, body.destination),
});
