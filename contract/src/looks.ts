// Shapes of looks: checked once where they come in.
import { FACETS, PROPERTIES, faultOfValue, isAddedPath, parseTarget, propertyOf } from '@variscen/core/looks';
import * as z from 'zod';

export const idSchema = z.uuid();
export const nameSchema = z
  .string()
  .trim()
  .min(1, 'A name needs at least one character.')
  .max(120, 'A name has at most 120 characters.');
export const facetSchema = z.enum(FACETS);
export const hashSchema = z.string().regex(/^[0-9a-f]{64}$/);

const triple = z.tuple([z.number(), z.number(), z.number()]);
export const changeSchema = z
  .object({
    target: z
      .string()
      .max(2000)
      .refine((t) => parseTarget(t) !== undefined, 'No such kind of target.'),
    property: z.enum(PROPERTIES.map((p) => p.id) as [string, ...string[]]),
    value: z.union([z.boolean(), z.number(), z.string(), triple]),
  })
  .superRefine((c, ctx) => {
    const property = propertyOf(c.property);
    const fault = property && faultOfValue(property, c.value);
    if (fault) ctx.addIssue({ code: 'custom', message: fault, path: ['value'] });
    if (property && parseTarget(c.target)?.kind !== property.on)
      ctx.addIssue({
        code: 'custom',
        message: `${property.label} is not a property of “${c.target}”.`,
        path: ['target'],
      });
  })
  .meta({ id: 'Change' });
/** Of a light that looks add: “+spot/Key”. */
export const addedPathSchema = z.string().max(500).refine(isAddedPath, 'No light that a look adds is called so.');
export const changesSchema = z.array(changeSchema).max(50_000);

/** A mark of a person's own; it means what they want it to. */
export const TAGS = ['red', 'amber', 'green', 'blue', 'violet'] as const;
const notesSchema = z.string().max(4000, 'Notes have at most 4,000 characters.');
/** One value of one thing. */
export const valueKeySchema = z.object({ target: z.string().min(1).max(2000), property: z.string().min(1).max(200) });
export const valueKeysSchema = z.array(valueKeySchema).max(50_000);

export const optionSchema = z
  .object({
    id: idSchema,
    facet: facetSchema,
    name: nameSchema,
    ordinal: z.int(),
    notes: notesSchema,
    tag: z.enum(TAGS).nullable(),
    changes: changesSchema,
  })
  .meta({ id: 'Option' });
export const variantSchema = z
  .object({
    id: idSchema,
    name: nameSchema,
    namedByHand: z.boolean(),
    ordinal: z.int(),
    optionIds: z.array(idSchema),
    excludedCameraIds: z.array(idSchema),
    notes: notesSchema,
  })
  .meta({ id: 'Variant' });
export const patchSchema = z
  .object({ cameraId: idSchema, variantId: idSchema.nullable(), changes: changesSchema })
  .meta({ id: 'Patch' });

/** “base”, “option:ID”, “camera:ID” or “cell:CAMERA:VARIANT”. */
const UUID = '[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}';
export const destinationSchema = z
  .string()
  .regex(new RegExp(`^(?:base|option:${UUID}|camera:${UUID}|cell:${UUID}:${UUID})$`), 'No such destination.')
  .meta({ id: 'Destination' });
export const pendingSchema = z
  .object({ destination: destinationSchema, changes: changesSchema })
  .meta({ id: 'Pending' });

export type Tag = (typeof TAGS)[number];
export type ValueKey = z.infer<typeof valueKeySchema>;
export type Option = z.infer<typeof optionSchema>;
export type Variant = z.infer<typeof variantSchema>;
export type Patch = z.infer<typeof patchSchema>;
export type Pending = z.infer<typeof pendingSchema>;
