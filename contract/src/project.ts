// Shapes of projects, scenes and cameras.
import {
  CAMERA_LIMITS as L,
  GUIDES,
  LAST_FRAME,
  type Limits,
  MOST_STEP,
  PLATE_FITS,
  RUNS_ALONG,
  SECOND_PAIRS,
  faultOfRanges,
} from '@variscen/core/scene';
import * as z from 'zod';
import { profileExceptionSchema, profileSchema } from './profiles.ts';
import {
  changesSchema,
  hashSchema,
  idSchema,
  nameSchema,
  optionSchema,
  patchSchema,
  pendingSchema,
  variantSchema,
} from './looks.ts';

const finite = z.number();
const limited = ([least, most]: Limits) => finite.min(least).max(most);
const cameraShape = z.object({
  matrix: z.array(finite).length(16),
  projection: z.enum(['perspective', 'orthographic']),
  widthPx: z.int().min(L.sizePx[0]).max(L.sizePx[1]),
  heightPx: z.int().min(L.sizePx[0]).max(L.sizePx[1]),
  sensorWidthMm: limited(L.sensorWidthMm),
  focalLengthMm: limited(L.focalLengthMm),
  orthoHalfHeightM: limited(L.orthoHalfHeightM),
  nearM: limited(L.nearM),
  farM: limited(L.farM),
  focusDistanceM: limited(L.focusDistanceM),
  fStop: limited(L.fStop).nullable(),
  cullMarginPct: finite.min(0).max(1000).nullable(),
  cull: z
    .object({
      fartherThanM: finite.positive().max(1e7).optional(),
      smallerThanPx: finite.positive().max(10_000).optional(),
      outsidePlanes: z.boolean().optional(),
      leaveOut: hashSchema.optional(),
      keep: hashSchema.optional(),
      standIns: hashSchema.optional(),
      plan: hashSchema.optional(),
    })
    .optional(),
  shiftX: finite.min(-2).max(2).optional(),
  shiftY: finite.min(-2).max(2).optional(),
  blades: z.int().min(3).max(32).optional(),
  crop: z
    .object({
      left: finite.min(0).max(100),
      top: finite.min(0).max(100),
      right: finite.min(0).max(100),
      bottom: finite.min(0).max(100),
    })
    .refine((c) => c.left < c.right && c.top < c.bottom, {
      message: 'The part of the frame that is rendered must begin before it ends.',
    })
    .optional(),
  frame: finite.min(0).max(1e6).optional(),
  depthRangeM: z
    .object({ near: finite.min(0).max(1e7), far: finite.min(0).max(1e7) })
    .refine((d) => d.near < d.far, { message: 'The depth range must begin before it ends.' })
    .optional(),
  follows: z.string().max(4000).optional(),
});
export const cameraSettingsSchema = cameraShape
  .refine((c) => c.nearM < c.farM, { message: 'The near plane must lie before the far plane.', path: ['nearM'] })
  .meta({ id: 'CameraSettings' });
/** Some values of several cameras; null clears one that need not be set. */
export const cameraValuesSchema = cameraShape
  .omit({ matrix: true, follows: true })
  .extend({
    cull: cameraShape.shape.cull.nullable(),
    shiftX: cameraShape.shape.shiftX.nullable(),
    shiftY: cameraShape.shape.shiftY.nullable(),
    blades: cameraShape.shape.blades.nullable(),
    crop: cameraShape.shape.crop.nullable(),
    frame: cameraShape.shape.frame.nullable(),
    depthRangeM: cameraShape.shape.depthRangeM.nullable(),
  })
  .partial();

// lines may reach beyond the frame
const framePoint = z.tuple([finite.min(-20).max(20), finite.min(-20).max(20)]);
const frameLine = z.tuple([framePoint, framePoint]);
export const plateMatchSchema = z
  .object({
    first: z.tuple([frameLine, frameLine]),
    firstAlong: z.enum(RUNS_ALONG),
    second: z.tuple([frameLine, frameLine]),
    secondIs: z.enum(SECOND_PAIRS),
    ground: framePoint,
    groundAt: z.tuple([finite, finite, finite]),
    scale: z.discriminatedUnion('by', [
      z.object({ by: z.literal('height'), heightM: finite.min(0).max(1e6) }),
      z.object({ by: z.literal('length'), line: frameLine, lengthM: finite.min(0).max(1e6) }),
    ]),
  })
  .meta({ id: 'PlateMatch' });

const frameNumber = z.int().min(0).max(LAST_FRAME);
export const guidesSchema = z.array(z.enum(GUIDES)).max(GUIDES.length);
export const cameraHandlingSchema = z
  .object({
    locked: z.boolean(),
    aspectLocked: z.boolean(),
    notes: z.string().max(4000),
    guides: guidesSchema,
    frames: z
      .array(z.object({ first: frameNumber, last: frameNumber, step: z.int().min(1).max(MOST_STEP) }))
      .superRefine((ranges, ctx) => {
        const fault = faultOfRanges(ranges);
        if (fault) ctx.addIssue({ code: 'custom', message: fault });
      })
      .nullable(),
    plate: z
      .object({
        hash: hashSchema,
        name: z.string().max(255),
        widthPx: z.int().min(1),
        heightPx: z.int().min(1),
        fit: z.enum(PLATE_FITS),
        opacity: finite.min(0).max(1),
        match: plateMatchSchema.optional(),
      })
      .nullable(),
  })
  .meta({ id: 'CameraHandling' });

export const cameraSchema = z
  .object({
    id: idSchema,
    name: nameSchema,
    ordinal: z.int(),
    settings: cameraSettingsSchema,
    handling: cameraHandlingSchema,
  })
  .meta({ id: 'Camera' });

const count = z.number().int().nonnegative();
export const importReportSchema = z
  .object({
    fileName: z.string(),
    fileBytes: count,
    objects: count,
    groups: count,
    lights: count,
    cameras: count,
    materials: count,
    meshes: count,
    trianglesStored: count,
    trianglesPlaced: count,
    textures: count,
    textureBytes: count,
    sizeM: z.tuple([finite, finite, finite]),
    faults: z.array(z.object({ kind: z.string(), subject: z.string(), message: z.string() })),
  })
  .meta({ id: 'ImportReport' });
/** How an accepted revision was matched with what was there before. */
const thingSchema = z.object({
  kind: z.enum(['object', 'group', 'light', 'camera', 'material']),
  id: z.string(),
  label: z.string(),
});
export const handMatchSchema = z.object({
  material: z.boolean(),
  from: z.string().min(1).max(4000),
  to: z.string().min(1).max(4000),
});
const matchCounts = { matched: count, moved: count, changed: count, byName: count, byHand: count };
export const matchSummarySchema = z.object({ ...matchCounts, gone: z.array(thingSchema), addedCount: count });
export const matchPreviewSchema = z
  .object({
    ...matchCounts,
    /** Those that are more than the same path in the same place: the first few thousand. */
    notable: z.array(
      z.object({
        kind: thingSchema.shape.kind,
        from: z.string(),
        to: z.string(),
        how: z.enum(['path', 'parent', 'name', 'hand']),
        moved: z.boolean(),
        changed: z.boolean(),
      }),
    ),
    notableCount: count,
    /** With the number of recorded changes that wait on each. */
    gone: z.array(thingSchema.extend({ recorded: count })),
    added: z.array(thingSchema),
    newCameras: z.array(z.string()),
    movedCameras: z.array(z.object({ cameraId: idSchema, name: z.string() })),
  })
  .meta({ id: 'MatchPreview' });
export const revisionSchema = z
  .object({
    id: idSchema,
    number: z.int(),
    sceneHash: hashSchema,
    state: z.enum(['offered', 'accepted']),
    createdAt: z.string(),
    report: importReportSchema,
    match: matchSummarySchema.nullable(),
  })
  .meta({ id: 'SceneRevision' });
export const selectionSetSchema = z
  .object({ name: nameSchema, paths: z.array(z.string().min(1).max(4000)).max(50_000) })
  .meta({ id: 'SelectionSet' });
/** An environment map that was brought in; a look refers to it by its value. */
export const environmentMapSchema = z
  .object({ value: z.string(), name: z.string(), width: z.int(), height: z.int() })
  .meta({ id: 'EnvironmentMap' });
export const historyStepSchema = z
  .object({ id: z.string(), label: z.string(), state: z.enum(['done', 'undone']), at: z.string() })
  .meta({ id: 'HistoryStep' });
/**
 * What undo and redo would do next, and the last change that this knows of: a request that names it (x-variscen-seen)
 * is refused where another window has changed the same since.
 */
export const historyHeadSchema = z.object({
  undo: z.string().nullable(),
  redo: z.string().nullable(),
  last: z.string().nullable(),
});

export const projectSummarySchema = z
  .object({
    id: idSchema,
    name: nameSchema,
    createdAt: z.string(),
    cameras: count,
    variants: count,
    hasScene: z.boolean(),
    /** Of the latest edit; of its beginning where nothing was edited. */
    changedAt: z.string(),
    /** The latest render, whose picture stands for the project; null: nothing was rendered. */
    coverRenderId: idSchema.nullable(),
    renders: count,
    /** It was made when Variscen was first started here. */
    isDemo: z.boolean(),
  })
  .meta({ id: 'ProjectSummary' });
export const projectSchema = z
  .object({
    id: idSchema,
    name: nameSchema,
    nameTemplate: z.string(),
    variantTemplate: z.string(),
    revision: revisionSchema.nullable(),
    /** A newer file of the scene that is not yet in force. */
    offered: revisionSchema.nullable(),
    sets: z.array(selectionSetSchema),
    /** Profiles of its own. */
    profiles: z.array(profileSchema),
    /** What is rendered otherwise for some cameras and cells. */
    exceptions: z.array(profileExceptionSchema),
    /** Warnings of plans that somebody has accepted, as they are said. */
    acceptedWarnings: z.array(z.string()),
    /** Pictures stay up to date where only what none of their rays met has changed. */
    staysUnmet: z.boolean(),
    history: historyHeadSchema,
    cameras: z.array(cameraSchema),
    base: changesSchema,
    options: z.array(optionSchema),
    variants: z.array(variantSchema),
    patches: z.array(patchSchema),
    pending: z.array(pendingSchema),
  })
  .meta({ id: 'Project' });

export type Camera = z.infer<typeof cameraSchema>;
export type Project = z.infer<typeof projectSchema>;
export type ProjectSummary = z.infer<typeof projectSummarySchema>;
export type MatchPreview = z.infer<typeof matchPreviewSchema>;
export type HandMatch = z.infer<typeof handMatchSchema>;
export type SelectionSet = z.infer<typeof selectionSetSchema>;
export type HistoryHead = z.infer<typeof historyHeadSchema>;
export type HistoryStep = z.infer<typeof historyStepSchema>;
export type Revision = z.infer<typeof revisionSchema>;
