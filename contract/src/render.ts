// Shapes of the board, plans, batches, traces and renders.
import { AOVS } from '@variscen/core/plan';
import { MOST_FRAMES } from '@variscen/core/scene';
import * as z from 'zod';
import { changeSchema, hashSchema, idSchema } from './looks.ts';
import { nodeSchema } from './machines.ts';
import { profileSchema } from './profiles.ts';
import { cameraSettingsSchema } from './project.ts';

const count = z.number().int().nonnegative();
/** As many as cells in an order. */
const MOST_LIGHTINGS = 10_000;
export const cellRefSchema = z.object({ cameraId: idSchema, variantId: idSchema });
/** A picture of a cell: of a frame, where its camera renders a sequence; null: the only one. */
const frameOf = z.int().nonnegative().nullable();
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
    frame: frameOf,
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
          cellRefSchema.extend({ frame: frameOf, version: z.int(), path: z.string(), files: z.array(z.string()) }),
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

/** A slice of a trace: whole rows of tiles of its film, rendered to their last sample by one node. */
export const sliceStateSchema = z.enum(['waiting', 'rendering', 'done']);
export const sliceRowsSchema = z.object({ fromRow: count, toRow: z.int().positive().max(65_536) });
export const sliceSchema = sliceRowsSchema.extend({
  id: idSchema,
  state: sliceStateSchema,
  nodeName: z.string().nullable(),
  seconds: z.number().nullable(),
});
/** Which nodes of the scene rays may have met, a bit each (core/cull/metNodes); absent: it is not known. */
const metSchema = z
  .base64()
  .max(2 ** 20)
  .optional();
export const sliceWorkSchema = z.object({
  seconds: z.number().nonnegative(),
  rays: count,
  paths: count,
  met: metSchema,
});
/** How a trace is cut, and what of it is there: each slice's film lies on the server when it is done. */
export const cutSchema = z
  .object({
    /** Samples a pixel: the profile's, or fewer where its time limit asks for it. */
    samples: z.int().positive(),
    tileRows: z.int().positive(),
    slices: z.array(sliceSchema.extend({ filmSha256: hashSchema.nullable(), work: sliceWorkSchema.nullable() })),
  })
  .meta({ id: 'Cut' });

/** Undelivered: traced, and its files wait on the node that made them, since they could not be stored. */
export const traceStateSchema = z.enum([
  'waiting',
  'paused',
  'rendering',
  'done',
  'failed',
  'undelivered',
  'cancelled',
]);
export const tracePrioritySchema = z.enum(['high', 'normal', 'low']);
/** What a node does with a trace that is rendering, in this order. */
export const STAGES = ['tracing', 'writing', 'delivering'] as const;
export const traceStageSchema = z.enum(STAGES);
export const queueTraceSchema = z
  .object({
    id: idSchema,
    batchId: idSchema,
    projectId: idSchema,
    projectName: z.string(),
    state: traceStateSchema,
    priority: tracePrioritySchema,
    profileName: z.string(),
    /** The first of those that it serves, and how many they are. */
    cells: z.array(z.object({ cameraName: z.string(), variantName: z.string(), version: z.int() })),
    cellCount: count,
    /** Of a sequence; null: it is none. */
    frame: frameOf,
    sequenceId: idSchema.nullable(),
    /**
     * Of a sequence, the frames that are in the same state and stand in one row with this one; null: it stands alone.
     */
    framesAlike: z.array(count).nullable(),
    widthPx: z.int(),
    heightPx: z.int(),
    samples: z.int(),
    fraction: z.number(),
    samplesDone: count,
    stage: traceStageSchema,
    /** Relative noise of the picture so far; null where it is not known. */
    noise: z.number().nullable(),
    previewVersion: count,
    nodeName: z.string().nullable(),
    attempts: count,
    error: z.string().nullable(),
    plannedBytes: count,
    peakBytes: count.nullable(),
    seconds: z.number().nullable(),
    /** What the plan expected; null: nothing was measured before. */
    expectedS: z.number().nullable(),
    /** Of one that renders in slices. */
    slices: z.array(sliceSchema.omit({ id: true })),
    /** The render of its first cell, whose picture stands for it; null until it is done. */
    renderId: idSchema.nullable(),
    createdAt: z.string(),
    startedAt: z.string().nullable(),
    finishedAt: z.string().nullable(),
  })
  .meta({ id: 'QueueTrace' });
export const queueBatchSchema = z.object({
  id: idSchema,
  projectId: idSchema,
  projectName: z.string(),
  profileName: z.string(),
  createdAt: z.string(),
  /** Traces by state. */
  counts: z.object({ waiting: count, paused: count, rendering: count, done: count, failed: count, cancelled: count }),
  /** Of what is to come, from what the plan expected; null where it did not know. */
  leftS: z.number().nullable(),
});
/** Ended traces, the latest first, and where the next page begins; null at the end. */
export const endedTracesSchema = z.object({ traces: z.array(queueTraceSchema), next: z.string().nullable() });
/** Time and id of the last one that was seen. */
export const endedCursorSchema = z
  .string()
  .regex(/^\d{4}-\d\d-\d\dT[\d:.]+Z~[0-9a-f-]{36}$/, 'This is not where a page begins.');
export const queueSchema = z
  .object({
    /** What renders, the first of those that wait in their order, and the last that ended. */
    traces: z.array(queueTraceSchema),
    counts: z.object({ rendering: count, waiting: count, paused: count, failed: count }),
    /** Batches with something to come. */
    batches: z.array(queueBatchSchema),
    /** Why nothing is handed out to nodes now, in words. */
    pausedFor: z.string().nullable(),
    /** People have said so. */
    isHeld: z.boolean(),
    nodes: z.array(nodeSchema),
  })
  .meta({ id: 'Queue' });

/** What a node gets to do its work: a snapshot that later edits do not touch. */
export const leaseSchema = z
  .object({
    traceId: idSchema,
    token: idSchema,
    leaseS: z.number(),
    sceneHash: hashSchema,
    camera: cameraSettingsSchema,
    changes: z.array(changeSchema),
    profile: profileSchema,
    widthPx: z.int(),
    heightPx: z.int(),
    cells: z.array(
      z.object({
        changes: z.array(changeSchema),
        /** Which of the trace's lightings it shows: where there are several, changes above have the sources of all. */
        lighting: count,
        metadata: z.record(z.string(), z.string()),
      }),
    ),
    /** Slices from an earlier attempt, by an engine of the same build; null where there are none. */
    cut: cutSchema.nullable(),
    /** What the trace may take, where people have set it for this machine. */
    budgetBytes: z.number().nullable(),
  })
  .meta({ id: 'Lease' });
export const sliceResultSchema = sliceWorkSchema.extend({ token: idSchema });
export const traceResultSchema = z
  .object({
    token: idSchema,
    samples: z.int().positive(),
    seconds: z.number().nonnegative(),
    rays: count,
    paths: count,
    plannedBytes: memorySchema,
    peakBytes: count,
    droppedObjects: count,
    /** Absent: none. */
    simplifiedObjects: count.optional(),
    meshes: loadedMeshesSchema.optional(),
    /** So many pictures in other light were made of it; absent: one. */
    lightings: z.int().positive().optional(),
    /** Relative noise of the picture in each of its lightings, before denoising; null where it is not known. */
    noises: z.array(z.number().nonnegative().nullable()).max(MOST_LIGHTINGS).optional(),
    leftOut: leftOutSchema.optional(),
    met: metSchema,
    /** Which engine it was, where the node said so. */
    engine: z.string().max(100).optional(),
    /** The version whose stored light it shows by another grade; absent: it was traced. */
    developedFrom: z.int().positive().optional(),
    /** How that engine draws; absent: as the first one. */
    drawing: z.int().positive().optional(),
  })
  .meta({ id: 'TraceResult' });

export const healthSchema = z
  .object({
    ok: z.boolean(),
    version: z.string(),
    parts: z.array(z.object({ name: z.string(), ok: z.boolean(), message: z.string() })),
  })
  .meta({ id: 'Health' });
export const errorSchema = z
  .object({ code: z.string(), message: z.string(), remedy: z.string() })
  .meta({ id: 'Error' });

export const eventSchema = z
  .discriminatedUnion('type', [
    z.object({ type: z.literal('project'), projectId: idSchema }),
    /** Pending edits changed: in the window that is named, or by a program. */
    z.object({ type: z.literal('pending'), projectId: idSchema, tab: z.string().nullable() }),
    z.object({ type: z.literal('projects') }),
    z.object({ type: z.literal('library') }),
    z.object({ type: z.literal('queue') }),
    z.object({
      type: z.literal('trace'),
      projectId: idSchema,
      traceId: idSchema,
      fraction: z.number(),
      samplesDone: count,
      stage: traceStageSchema,
      noise: z.number().nullable(),
      previewVersion: count,
    }),
    /** The text says what came of it. */
    /** Pictures that somebody had made from stored light could not be. */
    z.object({ type: z.literal('develop-failed'), projectId: idSchema, message: z.string() }),
    z.object({ type: z.literal('batch-ended'), batchId: idSchema, projectId: idSchema, text: z.string() }),
    z.object({ type: z.literal('import'), projectId: idSchema, fraction: z.number() }),
    /** A look at what a cell needs. */
    z.object({ type: z.literal('evidence'), projectId: idSchema, ...cellRefSchema.shape, fraction: z.number() }),
    /** What a cell needs is written to a file. */
    z.object({ type: z.literal('split'), projectId: idSchema, ...cellRefSchema.shape, fraction: z.number() }),
  ])
  .meta({ id: 'Event' });

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
export type Queue = z.infer<typeof queueSchema>;
export type QueueTrace = z.infer<typeof queueTraceSchema>;
export type RenderFileKind = z.infer<typeof renderFileKindSchema>;
export type Cut = z.infer<typeof cutSchema>;
export type Slice = z.infer<typeof sliceSchema>;
export type SliceRows = z.infer<typeof sliceRowsSchema>;
export type SliceResult = z.infer<typeof sliceResultSchema>;
export type TracePriority = z.infer<typeof tracePrioritySchema>;
export type QueueBatch = z.infer<typeof queueBatchSchema>;
export type EndedTraces = z.infer<typeof endedTracesSchema>;
export type TraceStage = z.infer<typeof traceStageSchema>;
export type TraceState = z.infer<typeof traceStateSchema>;
export type Lease = z.infer<typeof leaseSchema>;
export type TraceResult = z.infer<typeof traceResultSchema>;
export type Health = z.infer<typeof healthSchema>;
export type ServerEvent = z.infer<typeof eventSchema>;
