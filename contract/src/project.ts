// Shapes of projects, scenes and cameras.
import * as z from 'zod';
import { changesSchema, hashSchema, idSchema, nameSchema, optionSchema, patchSchema, pendingSchema, variantSchema } from './looks.ts';

const finite = z.number();
export const cameraSettingsSchema = z.object({
  matrix: z.array(finite).length(16),
  projection: z.enum(['perspective', 'orthographic']),
  widthPx: z.int().min(16).max(16384),
  heightPx: z.int().min(16).max(16384),
  sensorWidthMm: finite.min(1).max(200),
  focalLengthMm: finite.min(1).max(2000),
  orthoHalfHeightM: finite.positive().max(1e6),
  nearM: finite.min(0.0001).max(1e6),
  farM: finite.min(0.001).max(1e7),
  focusDistanceM: finite.min(0.001).max(1e6),
  fStop: finite.min(0.1).max(128).nullable(),
  cullMarginPct: finite.min(0).max(1000).nullable(),
  shiftX: finite.min(-2).max(2).optional(),
  shiftY: finite.min(-2).max(2).optional(),
  blades: z.int().min(3).max(32).optional(),
  crop: z.object({ left: finite.min(0).max(100), top: finite.min(0).max(100), right: finite.min(0).max(100), bottom: finite.min(0).max(100) }).refine((c) => c.left < c.right && c.top < c.bottom, { message: 'The part of the frame that is rendered must begin before it ends.' }).optional(),
  frame: finite.min(0).max(1e6).optional(),
  follows: z.string().max(4000).optional(),
}).refine((c) => c.nearM < c.farM, { message: 'The near plane must lie before the far plane.', path: ['nearM'] }).meta({ id: 'CameraSettings' });

export const cameraSchema = z.object({ id: idSchema, name: nameSchema, ordinal: z.int(), settings: cameraSettingsSchema }).meta({ id: 'Camera' });

const count = z.number().int().nonnegative();
export const importReportSchema = z.object({
  fileName: z.string(), fileBytes: count, objects: count, groups: count, lights: count, cameras: count, materials: count, meshes: count, trianglesStored: count, trianglesPlaced: count, textures: count, textureBytes: count,
  sizeM: z.tuple([finite, finite, finite]), faults: z.array(z.object({ kind: z.string(), subject: z.string(), message: z.string() })),
}).meta({ id: 'ImportReport' });
export const revisionSchema = z.object({ id: idSchema, number: z.int(), sceneHash: hashSchema, createdAt: z.string(), report: importReportSchema }).meta({ id: 'SceneRevision' });

export const projectSummarySchema = z.object({ id: idSchema, name: nameSchema, createdAt: z.string(), cameras: count, variants: count, hasScene: z.boolean() }).meta({ id: 'ProjectSummary' });
export const projectSchema = z.object({
  id: idSchema, name: nameSchema, nameTemplate: z.string(), revision: revisionSchema.nullable(), cameras: z.array(cameraSchema), base: changesSchema, options: z.array(optionSchema), variants: z.array(variantSchema), patches: z.array(patchSchema), pending: z.array(pendingSchema),
}).meta({ id: 'Project' });

export type Camera = z.infer<typeof cameraSchema>;
export type Project = z.infer<typeof projectSchema>;
export type ProjectSummary = z.infer<typeof projectSummarySchema>;
export type Revision = z.infer<typeof revisionSchema>;
