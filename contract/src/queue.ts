// Shapes of the queue: traces and their slices, what a node gets, and what it says.
import * as z from 'zod';
import { changeSchema, hashSchema, idSchema } from './looks.ts';
import { nodeSchema } from './machines.ts';
import { profileSchema } from './profiles.ts';
import { cameraSettingsSchema } from './project.ts';
import { frameOfSchema, leftOutSchema, loadedMeshesSchema, memorySchema } from './render.ts';

const count = z.number().int().nonnegative();
/** As many as cells in an order. */
const MOST_LIGHTINGS = 10_000;
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
    frame: frameOfSchema,
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
    /** Objects of whose meshes pieces are left out; absent: none. */
    inPartObjects: count.optional(),
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

export type Queue = z.infer<typeof queueSchema>;
export type QueueTrace = z.infer<typeof queueTraceSchema>;
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
