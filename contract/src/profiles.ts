// Shapes of profiles and of exceptions from them. Every range is checked here, for the API and the interface alike.
import { LIGHT_GROUPS } from '@variscen/core/looks';
import { AOVS, INTEGRATORS, PLAIN_FILES, faultOfFolder } from '@variscen/core/plan';
import * as z from 'zod';
import { idSchema, nameSchema } from './looks.ts';

export const aovSchema = z.enum(AOVS);
const aovsSchema = z
  .array(aovSchema)
  .readonly()
  .refine((x) => new Set(x).size === x.length, 'An AOV is named twice.');
const qualitySchema = z.int().min(1).max(100).nullable();
export const profileFilesSchema = z
  .object({
    exr: z
      .object({
        type: z.enum(['half', 'float']),
        compression: z.enum(['zip', 'zips', 'none']),
        aovsApart: z.boolean(),
        perCell: z.boolean(),
      })
      .nullable(),
    png: z.union([z.literal(8), z.literal(16)]).nullable(),
    tiff: z.enum(['16', 'float']).nullable(),
    jpeg: qualitySchema,
    webp: qualitySchema,
    graded: z.boolean(),
  })
  .refine((f) => f.exr ?? f.png ?? f.tiff ?? f.jpeg ?? f.webp, 'Choose at least one file format.');
const outputFolderSchema = z.string().superRefine((folder, context) => {
  const message = faultOfFolder(folder);
  if (message !== undefined) context.addIssue({ code: 'custom', message });
});
const lightGroupsSchema = z
  .union([
    z.literal('lights'),
    z
      .array(z.enum(LIGHT_GROUPS))
      .min(1, 'Choose at least one light group, or all.')
      .max(LIGHT_GROUPS.length)
      .readonly(),
  ])
  .nullable();
/** What a profile sets. */
export const profileSettingsSchema = z.object({
  sizeFactor: z.number().min(0.01).max(4),
  widthPx: z.int().min(1).max(16_384).nullable().default(null),
  samples: z.int().min(1).max(65536),
  timeLimitS: z.number().positive().max(1e6).nullable(),
  maxBounces: z.int().min(0).max(64),
  clampIndirect: z.number().min(0).max(1e6),
  noise: z.number().positive().max(1).nullable().default(null),
  denoise: z.number().min(0).max(1).default(0),
  textureCapPx: z.int().min(1).max(65536).nullable().default(null),
  displacement: z
    .object({ edgePx: z.number().positive(), farM: z.number().positive(), maxTriangles: z.int().positive() })
    .default({ edgePx: 4, farM: 30, maxTriangles: 300_000 }),
  integrator: z.enum(INTEGRATORS).default('full'),
  aovs: aovsSchema.default([]),
  floatAovs: aovsSchema.default([]),
  lightGroups: lightGroupsSchema.default(null),
  files: profileFilesSchema.default(PLAIN_FILES),
  nameTemplate: z.string().min(1).max(300).nullable().default(null),
  outputFolder: outputFolderSchema.nullable().default(null),
});
export const profileSchema = profileSettingsSchema
  .extend({ id: z.string().min(1).max(60), name: nameSchema })
  .meta({ id: 'Profile' });
/** What is rendered otherwise for one camera or one cell. */
export const profileExceptionSchema = z
  .object({
    cameraId: idSchema,
    /** Null: in every variant. */
    variantId: idSchema.nullable(),
    /** Null: from every profile. */
    profileId: z.string().min(1).max(60).nullable(),
    settings: z.strictObject({
      sizeFactor: profileSettingsSchema.shape.sizeFactor.optional(),
      widthPx: z.int().min(1).max(16_384).nullable().optional(),
      samples: profileSettingsSchema.shape.samples.optional(),
      timeLimitS: profileSettingsSchema.shape.timeLimitS.optional(),
      maxBounces: profileSettingsSchema.shape.maxBounces.optional(),
      clampIndirect: profileSettingsSchema.shape.clampIndirect.optional(),
      noise: z.number().positive().max(1).nullable().optional(),
      denoise: z.number().min(0).max(1).optional(),
      textureCapPx: z.int().min(1).max(65536).nullable().optional(),
      integrator: z.enum(INTEGRATORS).optional(),
      aovs: aovsSchema.optional(),
      floatAovs: aovsSchema.optional(),
      lightGroups: lightGroupsSchema.optional(),
      files: profileFilesSchema.optional(),
    }),
  })
  .meta({ id: 'ProfileException' });

export type ProfileSettings = z.infer<typeof profileSettingsSchema>;
export type ProfileException = z.infer<typeof profileExceptionSchema>;
