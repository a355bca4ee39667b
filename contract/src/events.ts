// What the server tells of itself: its health, faults, and what has changed.
import * as z from 'zod';
import { idSchema } from './looks.ts';
import { traceStageSchema } from './queue.ts';
import { cellRefSchema } from './render.ts';

const count = z.number().int().nonnegative();
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
    /** Pictures that somebody had made from stored light could not be. */
    z.object({ type: z.literal('develop-failed'), projectId: idSchema, message: z.string() }),
    /** The text says what came of it. */
    z.object({ type: z.literal('batch-ended'), batchId: idSchema, projectId: idSchema, text: z.string() }),
    z.object({ type: z.literal('import'), projectId: idSchema, fraction: z.number() }),
    /** A look at what a cell needs. */
    z.object({ type: z.literal('evidence'), projectId: idSchema, ...cellRefSchema.shape, fraction: z.number() }),
    /** What a cell needs is written to a file. */
    z.object({ type: z.literal('split'), projectId: idSchema, ...cellRefSchema.shape, fraction: z.number() }),
  ])
  .meta({ id: 'Event' });

export type Health = z.infer<typeof healthSchema>;
export type ServerEvent = z.infer<typeof eventSchema>;
