// Shapes of cleaning up: files of older pictures are put aside, and go for good after a week.
import * as z from 'zod';
import { idSchema } from './looks.ts';

const count = z.int().nonnegative();
/** What is approved stays, whatever they say. */
export const cleaningRulesSchema = z.object({
  /** Newest versions that stay, of each cell, frame and profile. */
  versions: z.int().min(1).max(50),
  keepsDelivered: z.boolean(),
});
export const cleaningPlanSchema = z
  .object({
    /** Of all pictures whose files are there. */
    renders: count,
    bytes: count,
    /** What would go. A file that a picture that stays shares with one that goes stays. */
    goes: z.object({ renders: count, files: count, bytes: count }),
    /** Why others stay that are no longer the newest. */
    stays: z.object({ approved: count, delivered: count }),
    pictures: z.array(z.object({ renderId: idSchema, name: z.string(), bytes: count })),
  })
  .meta({ id: 'CleaningPlan' });
/** aside: it can be undone; undone: all is back; gone: a week is over. */
export const CLEANING_STATES = ['aside', 'undone', 'gone'] as const;
export const cleaningSchema = z
  .object({
    id: idSchema,
    state: z.enum(CLEANING_STATES),
    renders: count,
    files: count,
    bytes: count,
    createdAt: z.string(),
    /** When it cannot be undone any more. */
    untilAt: z.string(),
  })
  .meta({ id: 'Cleaning' });

export type CleaningRules = z.infer<typeof cleaningRulesSchema>;
export type CleaningPlan = z.infer<typeof cleaningPlanSchema>;
export type Cleaning = z.infer<typeof cleaningSchema>;
