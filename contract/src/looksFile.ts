// The file in which options travel, and its JSON Schema: made from the declared properties, so that a new property is
// in it by itself.
import { LOOKS_FORMAT, LOOKS_VERSION, PROPERTIES, type Property, longestChoice } from '@variscen/core/looks';
import * as z from 'zod';
import { changesSchema, facetSchema, idSchema, nameSchema, optionSchema } from './looks.ts';

export const travellingOptionSchema = z.object({
  facet: facetSchema,
  name: nameSchema,
  notes: optionSchema.shape.notes.default(''),
  changes: changesSchema,
});
export const looksFileSchema = z
  .object({
    format: z.literal(LOOKS_FORMAT, 'This is not a file of options made by Variscen.'),
    version: z.literal(LOOKS_VERSION, 'This file was made by a newer Variscen. Bring it into that one.'),
    from: z.string().max(300),
    options: z.array(travellingOptionSchema).min(1, 'The file holds no option.').max(500),
    wears: z.record(z.string().max(2000), z.string().max(300)).default({}),
  })
  .meta({ id: 'LooksFile' });

const foundSchema = z.object({
  target: z.string(),
  label: z.string(),
  changes: z.int(),
  to: z.string().nullable(),
  how: z.enum(['path', 'name', 'material', 'hand', 'single']).nullable(),
  candidates: z.array(z.string()),
});
export const looksMatchSchema = z
  .object({
    from: z.string(),
    options: z.array(
      z.object({
        facet: facetSchema,
        name: z.string(),
        changes: z.int(),
        /** There is one of this name already: it comes under another. */
        taken: z.boolean(),
      }),
    ),
    things: z.array(foundSchema),
    missing: z.array(z.string()),
  })
  .meta({ id: 'LooksMatch' });
/** From a file or from the library. */
export const looksSourceSchema = z
  .object({ file: looksFileSchema.optional(), entryId: idSchema.optional() })
  .refine((s) => (s.file === undefined) !== (s.entryId === undefined), 'Name a file or an entry of the library.');
export const byHandSchema = z.record(z.string().max(2000), z.string().max(2000).nullable()).default({});
export const libraryEntrySchema = z
  .object({
    id: idSchema,
    name: nameSchema,
    from: z.string(),
    createdAt: z.string(),
    options: z.array(z.object({ facet: facetSchema, name: z.string(), notes: z.string(), changes: z.int() })),
  })
  .meta({ id: 'LibraryEntry' });

export type LooksMatchAnswer = z.infer<typeof looksMatchSchema>;
export type LibraryEntry = z.infer<typeof libraryEntrySchema>;
export type LooksSource = z.infer<typeof looksSourceSchema>;

function valueSchema(p: Property): object {
  switch (p.type) {
    case 'boolean':
      return { type: 'boolean' };
    case 'number':
      return { type: 'number', minimum: p.min, maximum: p.max };
    case 'color':
      return {
        type: 'array',
        items: { type: 'number', minimum: 0, maximum: 1 },
        minItems: 3,
        maxItems: 3,
        description: 'Linear Rec.709 red, green, blue.',
      };
    case 'vector':
      return {
        type: 'array',
        items: { type: p.whole ? 'integer' : 'number', minimum: p.min, maximum: p.max },
        minItems: 3,
        maxItems: 3,
        description: p.of === 'axes' ? 'Along X, Y and Z of the world.' : 'Of red, green and blue.',
      };
    case 'choice':
      return {
        type: 'string',
        minLength: 1,
        maxLength: longestChoice(p),
        ...(p.brings && {
          description: {
            environment: 'A generated sky, or “map:HASH:WIDTHxHEIGHT:NAME”.',
            image: '“none”, the name of a texture of the scene, or “image:HASH:WIDTHxHEIGHT:TYPE:NAME”.',
            lut: '“none”, or “lut:HASH:SIZE:NAME”.',
            ies: '“none”, or “ies:SHARES:NAME”: 91 × 8 bytes in base 64, the roots of shares of the greatest strength.',
          }[p.brings],
        }),
      };
  }
}
const TARGETS = {
  object: '^object:.+',
  light: '^light:.+',
  material: '^material:.+',
  environment: '^environment$',
  grade: '^grade$',
  scene: '^scene$',
} as const;

/** JSON Schema (2020-12) of the file; docs/looks-file.schema.json is this, checked by a test. */
export const looksFileJsonSchema = (): object => ({
  $schema: 'https://json-schema.org/draft/2020-12/schema',
  title: 'Options of Variscen',
  type: 'object',
  required: ['format', 'version', 'options'],
  properties: {
    format: { const: LOOKS_FORMAT },
    version: { const: LOOKS_VERSION },
    from: { type: 'string', maxLength: 300, description: 'Where they come from, for a person to read.' },
    wears: {
      type: 'object',
      additionalProperties: { type: 'string' },
      description: 'Target of an object → name of the material that it wore there.',
    },
    options: {
      type: 'array',
      minItems: 1,
      maxItems: 500,
      items: {
        type: 'object',
        required: ['facet', 'name', 'changes'],
        properties: {
          facet: { enum: facetSchema.options },
          name: { type: 'string', minLength: 1, maxLength: 120 },
          notes: { type: 'string', maxLength: 4000 },
          changes: { type: 'array', maxItems: 50_000, items: { $ref: '#/$defs/change' } },
        },
      },
    },
  },
  $defs: {
    change: {
      oneOf: PROPERTIES.map((p) => ({
        title: `${p.label} (${p.facet})`,
        type: 'object',
        required: ['target', 'property', 'value'],
        properties: {
          target: { type: 'string', pattern: TARGETS[p.on] },
          property: { const: p.id },
          value: {
            ...valueSchema(p),
            ...(p.type === 'number' && typeof p.unit === 'string' && p.unit && { description: p.unit }),
          },
        },
      })),
    },
  },
});
