// What came of a batch, and who is told when it ends.
import * as z from 'zod';
import { idSchema } from './looks.ts';

const count = z.int().nonnegative();

export const batchSummarySchema = z
  .object({
    id: idSchema,
    projectId: idSchema,
    projectName: z.string(),
    profileName: z.string(),
    createdAt: z.string(),
    /** Null while something of it is to come. */
    endedAt: z.string().nullable(),
    /** Cells, by what came of their traces. */
    cells: z.object({ done: count, failed: count, cancelled: count, open: count }),
    /** Traces that came to nothing, with the reason. */
    failed: z.array(z.object({ traceId: idSchema, cells: z.string(), error: z.string() })),
    /** What the traces that are done took to render. */
    tookS: z.number(),
    /** Of those of which it was expected beforehand: what was, what they took, and how many were within a quarter. */
    estimates: z.object({ traces: count, expectedS: z.number(), tookS: z.number(), well: count }),
    /** From when it was queued until it ended. */
    wallS: z.number(),
    /** The most that a node's process took. */
    peakBytes: z.number(),
    fileBytes: z.number(),
    /** In a sentence. */
    text: z.string(),
  })
  .meta({ id: 'BatchSummary' });
export type BatchSummary = z.infer<typeof batchSummarySchema>;

export const webhookSchema = z
  .object({
    /** Where the summary is posted; null: nowhere. */
    url: z
      .url({ protocol: /^https?$/, error: 'The address begins with http:// or https://.' })
      .max(2000)
      .nullable(),
    /** Signs what is posted; null: it is not signed. */
    secret: z.string().min(1).max(200).nullable(),
  })
  .meta({ id: 'Webhook' });
export type WebhookSettings = z.infer<typeof webhookSchema>;
/** As it is told: whether there is a secret, and not which. */
export const webhookStateSchema = z
  .object({
    url: z.string().nullable(),
    isSigned: z.boolean(),
    /** Of the last word: when, and what was wrong with it; null: nothing. */
    last: z.object({ at: z.string(), error: z.string().nullable() }).nullable(),
  })
  .meta({ id: 'WebhookState' });
export type WebhookState = z.infer<typeof webhookStateSchema>;
