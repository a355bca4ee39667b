// Shapes of the board, plans, batches and renders.
import { AOVS } from '@variscen/core/plan';
import { MOST_FRAMES } from '@variscen/core/scene';
import * as z from 'zod';
import { hashSchema, idSchema } from './looks.ts';
import { profileSchema } from './profiles.ts';

const count = z.number().int().nonnegative();
export const cellRefSchema = z.object({ cameraId: idSchema, variantId: idSchema });
/** A picture of a cell: of a frame, where its camera renders a sequence; null: the only one. */
export const frameOfSchema = z.int().nonnegative().nullable();
export const CELL_STATES = ['never', 'current', 'outdated', 'waiting', 'rendering', 'failed', 'excluded'] as const;
export const cellStatusSchema = z.enum(CELL_STATES);
export const differenceSchema = z.object({ subject: z.string(), what: z.string(), was: z.string(), is: z.string() });
/** Files of a render. */
export const renderFileKindSchema = z.enum([
  'exr',
  ...AOVS.map((aov) => `exr-${aov}` as const),
  'png',
  'tiff',
  'jpeg',
  'webp',
  'thumbnail',
]);
export const renderFileSchema = z.object({
  kind: renderFileKindSchema,
  path: z.string(),
  bytes: count,
  /** Content hash, and when the disk says it was last changed, both as it was stored; absent in older renders. */
  sha256: hashSchema.optional(),
  modifiedMs: z.number().optional(),
});
/** What became of a file outside Variscen. */
export const fileFaultSchema = z.object({ path: z.string(), fault: z.enum(['gone', 'changed']) });
export const memorySchema = z.object({
  vertices: count,
  acceleration: count,
  textures: count,
  lights: count,
  film: count,
  scratch: count,
});

/** Of meshes that are loaded in pieces, and textures in levels, by the node that finished the trace. */
export const loadedMeshesSchema = z.object({
  pieces: count,
  bytes: count,
  /** Different pieces that light paths have reached. */
  met: count,
  metBytes: count,
  /** Absent in older renders. */
  textures: z.object({ levels: count, bytes: count, met: count, metBytes: count }).optional(),
  /** The most that was in memory at once, of both. */
  mostBytes: count,
  loads: count,
  drops: count,
});

/** What is left out of a picture, and what that cost, added up while it was rendered. */
export const leftOutSchema = z.object({
  /** Of all the picture's light: the whole scene's picture differs by no more, but for noise. */
  atMostShare: z.number().nonnegative(),
  pixels: count,
  /** Pixels that may differ by more than a hundredth. */
  doubtedPixels: count,
  /** By which objects most of it came, the worst first, and their share of it. */
  most: z.array(z.object({ object: z.string(), share: z.number() })).max(100),
});

export const renderSchema = z
  .object({
    id: idSchema,
    cameraId: idSchema,
    variantId: idSchema,
    frame: frameOfSchema,
    version: z.int().positive(),
    hash: hashSchema,
    profile: profileSchema,
    widthPx: z.int(),
    heightPx: z.int(),
    files: z.array(renderFileSchema),
    /** Its files were cleaned up: its small picture is there, and what is known of it. */
    isCleaned: z.boolean(),
    createdAt: z.string(),
    samples: count,
    seconds: z.number(),
    rays: count,
    plannedBytes: memorySchema,
    peakBytes: count,
    droppedObjects: count,
    simplifiedObjects: count,
    /** Objects of whose meshes pieces are left out. */
    inPartObjects: count,
    /** Null where none were, or in older renders. */
    meshes: loadedMeshesSchema.nullable(),
    /** The version whose stored light it shows by another grade; null: it was traced. */
    developedFrom: z.int().positive().nullable(),
    /** So many pictures in other light were made of its trace, this one among them: 1, it had a trace of its own. */
    lightings: z.int().positive(),
    /** Relative noise before denoising; null where it is not known, or in older renders. */
    noise: z.number().nonnegative().nullable(),
    /** Null where nothing was, or in older renders. */
    leftOut: leftOutSchema.nullable(),
  })
  .meta({ id: 'Render' });

const pictureTraceSchema = z.object({
  id: idSchema,
  fraction: z.number(),
  samplesDone: count,
  previewVersion: count,
  error: z.string().nullable(),
});
/** How many pictures of a sequence are in each state. */
export const frameCountsSchema = z.object({
  total: count,
  never: count,
  current: count,
  outdated: count,
  waiting: count,
  rendering: count,
  failed: count,
});
/** A picture of a sequence. */
export const cellFrameSchema = z
  .object({
    frame: count,
    status: cellStatusSchema,
    renderId: idSchema.nullable(),
    version: z.int().nullable(),
    fileFault: fileFaultSchema.nullable(),
    trace: pictureTraceSchema.nullable(),
  })
  .meta({ id: 'CellFrame' });
export const boardCellSchema = cellRefSchema
  .extend({
    status: cellStatusSchema,
    render: renderSchema.nullable(),
    /** A file of the render that is gone, or is not what was stored. */
    fileFault: fileFaultSchema.nullable(),
    /** Since it was rendered only what none of its rays met has changed: it is as up to date as before. */
    stands: z.boolean(),
    differences: z.array(differenceSchema),
    /** What it would be rendered from now; cells with one hash have one picture. */
    hash: hashSchema,
    trace: pictureTraceSchema.nullable(),
    /**
     * Of a sequence, whose status is that of all its pictures; render and trace are of one of them. null: a picture.
     */
    frames: frameCountsSchema.nullable(),
  })
  .meta({ id: 'BoardCell' });
export const cellCountsSchema = z
  .object({
    /** Of all cells but those that are left out. */
    total: count,
    current: count,
  })
  .meta({ id: 'CellCounts' });
export const boardSchema = z.object({ cells: z.array(boardCellSchema) }).meta({ id: 'Board' });

export const planRequestSchema = z
  .object({
    cells: z
      .array(
        cellRefSchema.extend({
          /** Of a sequence, those that are to be rendered; absent: all of them. */
          frames: z.array(count).min(1).max(MOST_FRAMES).optional(),
        }),
      )
      .min(1, 'Select at least one cell.')
      .max(10_000),
    profileId: z.string(),
    /** Of the plan that was shown: what is queued is that one or none. */ planHash: hashSchema.optional(),
    /** Made by who asks: sent twice, as after a lost answer, the same order makes one batch. */
    orderId: idSchema.optional(),
    /** Every lighting is traced by itself. */
    separately: z.boolean().optional(),
  })
  .meta({ id: 'PlanRequest' });
/**
 * Of what an expected time is: the same cell, its camera, what was measured of it, its project, or other projects; the
 * first is surest.
 */
export const planTraceSourceSchema = z.enum(['cell', 'camera', 'measured', 'project', 'other']);
export const planSchema = z
  .object({
    /** Of all that a person decides by: the same hash, the same work. */
    hash: hashSchema,
    profile: profileSchema,
    traces: z.array(
      z.object({
        hash: hashSchema,
        cells: z.array(
          cellRefSchema.extend({
            frame: frameOfSchema,
            version: z.int(),
            path: z.string(),
            files: z.array(z.string()),
          }),
        ),
        /** With the exceptions for these cells; null where it is as the plan says. */
        profile: profileSchema.nullable(),
        /** What they set. */
        exceptions: z.array(z.string()),
        widthPx: z.int(),
        heightPx: z.int(),
        samples: z.int(),
        bytes: memorySchema,
        totalBytes: count,
        bytesWithoutCulling: memorySchema,
        totalBytesWithoutCulling: count,
        /** So much of its meshes and textures there is no room for together. */
        turnsBytes: count,
        /**
         * About so many times as long it takes, since what rays reach of them is loaded in turns: 1 where that has
         * room; null: it was not measured.
         */
        slower: z.number().nullable(),
        /** It cannot be rendered within the budget at all. */
        isRefused: z.boolean(),
        /**
         * What the node's process takes beside the engine, from what it took on this machine; null before anything was
         * measured.
         */
        processBytes: count.nullable(),
        objects: count,
        dropped: z.array(z.string()),
        droppedCount: count,
        simplifiedCount: count,
        inPartCount: count,
        culls: z.boolean(),
        /** So many pictures in other light are made of it: each would be a trace of its own. */
        lightings: z.int().positive(),
        /** From what was rendered before; null before anything was. */
        expectedS: z.number().nullable(),
        expectedFrom: planTraceSourceSchema.nullable(),
      }),
    ),
    /** The most that the files take, and what is free beside what is kept free. */
    mostFileBytes: count,
    freeBytes: count,
    /** Of the largest film, which lies beside them while its trace renders in slices. */
    filmBytes: count,
    /** Of what is handed out before, from what its plans expected; null where that is not known. */
    aheadS: z.number().nullable(),
    /** When all of it is done, within the working hours; null where that is not known, or never. */
    doneAt: z.string().nullable(),
    errors: z.array(z.object({ message: z.string(), path: z.string().nullable() })),
    warnings: z.array(z.string()),
  })
  .meta({ id: 'Plan' });
export const batchSchema = z.object({ id: idSchema, traces: count, cells: count }).meta({ id: 'Batch' });

export type Batch = z.infer<typeof batchSchema>;
export type BoardCell = z.infer<typeof boardCellSchema>;
export type Board = z.infer<typeof boardSchema>;
export type CellFrame = z.infer<typeof cellFrameSchema>;
export type FrameCounts = z.infer<typeof frameCountsSchema>;
export type CellCounts = z.infer<typeof cellCountsSchema>;
export type CellStatus = z.infer<typeof cellStatusSchema>;
export type Plan = z.infer<typeof planSchema>;
export type FileFault = z.infer<typeof fileFaultSchema>;
export type PlanTraceSource = z.infer<typeof planTraceSourceSchema>;
export type PlanRequest = z.infer<typeof planRequestSchema>;
export type Render = z.infer<typeof renderSchema>;
export type RenderFileKind = z.infer<typeof renderFileKindSchema>;
