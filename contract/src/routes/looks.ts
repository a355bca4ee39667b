// Options, variants, and edits that are pending or recorded.
import * as z from 'zod';
import {
  addedPathSchema,
  changesSchema,
  destinationSchema,
  facetSchema,
  idSchema,
  nameSchema,
  optionSchema,
  valueKeysSchema,
  variantSchema,
} from '../looks.ts';
import { historyHeadSchema, projectSchema } from '../project.ts';
import { type RouteSpec, project, none, part } from './spec.ts';

const keptSchema = z.object({ project: projectSchema, optionIds: z.array(idSchema), variantId: idSchema.nullable() });

export const LOOKS_ROUTES = {
  createOption: {
    method: 'post',
    path: '/api/projects/{projectId}/options',
    summary: 'Makes an option.',
    params: project,
    body: z.object({ facet: facetSchema, name: nameSchema, changes: changesSchema.optional() }),
    response: optionSchema,
  },
  createOptions: {
    method: 'post',
    path: '/api/projects/{projectId}/options/together',
    summary:
      'Makes options of several facets as one edit; on wish with a variant that has them in place of those of another.',
    params: project,
    body: z.object({
      options: z
        .array(z.object({ facet: facetSchema, name: nameSchema, changes: changesSchema }))
        .min(1)
        .max(6),
      variant: z.object({ fromVariantId: idSchema, name: nameSchema.optional() }).optional(),
    }),
    response: keptSchema,
  },
  duplicateOption: {
    method: 'post',
    path: '/api/projects/{projectId}/options/{optionId}/duplicate',
    summary: 'Makes an option with the same changes, after the first.',
    params: part('optionId'),
    body: z.object({ name: nameSchema.optional() }),
    response: optionSchema,
  },
  orderOptions: {
    method: 'put',
    path: '/api/projects/{projectId}/options/order',
    summary: 'Puts options of one facet in order.',
    params: project,
    body: z.object({ optionIds: z.array(idSchema).max(2000) }),
    response: projectSchema,
  },
  updateOption: {
    method: 'patch',
    path: '/api/projects/{projectId}/options/{optionId}',
    summary: 'Renames an option, sets its notes or tag, or replaces its changes.',
    params: part('optionId'),
    body: z.object({
      name: nameSchema.optional(),
      changes: changesSchema.optional(),
      notes: optionSchema.shape.notes.optional(),
      tag: optionSchema.shape.tag.optional(),
    }),
    response: optionSchema,
  },
  deleteOption: {
    method: 'delete',
    path: '/api/projects/{projectId}/options/{optionId}',
    summary: 'Deletes an option. One that variants use only with fromVariants=yes, which takes it out of them.',
    params: part('optionId'),
    query: z.object({ fromVariants: z.literal('yes').optional() }),
    response: none,
  },
  createVariant: {
    method: 'post',
    path: '/api/projects/{projectId}/variants',
    summary: 'Makes a variant of options, named from them unless a name is given.',
    params: project,
    body: z.object({ optionIds: z.array(idSchema).max(100), name: nameSchema.optional() }),
    response: variantSchema,
  },
  createVariants: {
    method: 'post',
    path: '/api/projects/{projectId}/variants/combine',
    summary: 'Makes a variant of each combination of options, as one edit; those that are there already are left out.',
    params: project,
    body: z.object({
      combinations: z.array(z.array(idSchema).max(100)).min(1, 'Choose at least one combination.').max(2000),
    }),
    response: z.object({ project: projectSchema, variantIds: z.array(idSchema) }),
  },
  updateVariant: {
    method: 'patch',
    path: '/api/projects/{projectId}/variants/{variantId}',
    summary: 'Changes a variant. A name that is null is made from its options again.',
    params: part('variantId'),
    body: z.object({
      name: nameSchema.nullable().optional(),
      optionIds: z.array(idSchema).max(100).optional(),
      excludedCameraIds: z.array(idSchema).max(1000).optional(),
      notes: variantSchema.shape.notes.optional(),
    }),
    response: variantSchema,
  },
  orderVariants: {
    method: 'put',
    path: '/api/projects/{projectId}/variants/order',
    summary: 'Puts the variants in order.',
    params: project,
    body: z.object({ variantIds: z.array(idSchema).max(2000) }),
    response: projectSchema,
  },
  deleteVariant: {
    method: 'delete',
    path: '/api/projects/{projectId}/variants/{variantId}',
    summary: 'Deletes a variant. Its renders stay on disk.',
    params: part('variantId'),
    response: none,
  },
  editPending: {
    method: 'post',
    path: '/api/projects/{projectId}/pending',
    summary: 'Sets and clears pending edits of a destination; “all” clears every one of them.',
    params: project,
    body: z.object({
      destination: destinationSchema,
      set: changesSchema.default([]),
      clear: z.union([valueKeysSchema, z.literal('all')]).default([]),
    }),
    response: historyHeadSchema,
  },
  movePending: {
    method: 'post',
    path: '/api/projects/{projectId}/pending/move',
    summary: 'Moves pending edits to another destination, where they stay pending.',
    params: project,
    body: z.object({ from: destinationSchema, to: destinationSchema, only: valueKeysSchema.optional() }),
    response: projectSchema,
  },
  keepPending: {
    method: 'post',
    path: '/api/projects/{projectId}/pending/keep',
    summary:
      'Writes pending edits of a destination into it; with names, into a new option of each named facet, and on wish a new variant with them.',
    params: project,
    body: z.object({
      destination: destinationSchema,
      only: valueKeysSchema.optional(),
      as: z
        .array(z.object({ facet: facetSchema, name: nameSchema }))
        .min(1)
        .max(6)
        .optional(),
      variant: z.object({ fromVariantId: idSchema, name: nameSchema.optional() }).optional(),
    }),
    response: keptSchema,
  },
  editRecorded: {
    method: 'post',
    path: '/api/projects/{projectId}/recorded',
    summary: 'Sets and clears values that are recorded in the base, an option or a patch.',
    params: project,
    body: z.object({
      destination: destinationSchema,
      set: changesSchema.default([]),
      clear: valueKeysSchema.default([]),
    }),
    response: projectSchema,
  },
  renameLight: {
    method: 'post',
    path: '/api/projects/{projectId}/lights/rename',
    summary: 'Calls a light that looks add otherwise, wherever anything is recorded or pending of it.',
    params: project,
    body: z.object({ path: addedPathSchema, name: nameSchema }),
    response: z.object({ project: projectSchema, path: addedPathSchema }),
  },
  removeLights: {
    method: 'post',
    path: '/api/projects/{projectId}/lights/remove',
    summary:
      'Takes lights that looks add out of a destination, recorded and pending; without one, out of everything in the project.',
    params: project,
    body: z.object({ paths: z.array(addedPathSchema).min(1).max(500), destination: destinationSchema.optional() }),
    response: projectSchema,
  },
} as const satisfies Record<string, RouteSpec>;
