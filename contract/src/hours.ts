// When a machine may render.
import { POWERS } from '@variscen/core/plan';
import * as z from 'zod';

export const workingHoursSchema = z
  .object({
    /** Seven days from Monday, 24 hours each, by the clock of the server's machine. */
    week: z.array(z.array(z.enum(POWERS)).length(24)).length(7),
    someThreads: z.int().min(1).max(1024),
    /** One thread fewer while somebody edits on the same machine. */
    stepsBack: z.boolean(),
    /** Nothing until then; null: as the week says. */
    notUntil: z.iso.datetime().nullable(),
  })
  .meta({ id: 'WorkingHours' });
export type NodeHours = z.infer<typeof workingHoursSchema>;
