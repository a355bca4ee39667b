// What was done in a project lately, of every kind, in words.
import * as z from 'zod';

/** What was edited; what was rendered; what was delivered; what was cleaned up. */
export const LATELY_KINDS = ['edit', 'batch', 'delivery', 'cleaning'] as const;
export const latelySchema = z
  .object({
    kind: z.enum(LATELY_KINDS),
    /** A batch: when it ended, or was queued where it has not ended. */
    at: z.string(),
    text: z.string(),
    /** It was undone since. */
    isUndone: z.boolean(),
  })
  .meta({ id: 'Lately' });
export type Lately = z.infer<typeof latelySchema>;
