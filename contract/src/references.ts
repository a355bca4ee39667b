// Shapes of reference pictures: files of others that are held against those that are rendered here.
import * as z from 'zod';
import { idSchema } from './looks.ts';

export const referenceSchema = z
  .object({
    id: idSchema,
    name: z.string(),
    widthPx: z.int().positive(),
    heightPx: z.int().positive(),
    /** Its light is known: it is shown as the picture beside it is graded. Else it is shown as it is. */
    isLinear: z.boolean(),
    /** What of the file is not shown, in words. */
    remarks: z.array(z.string()),
    createdAt: z.string(),
  })
  .meta({ id: 'Reference' });
export type Reference = z.infer<typeof referenceSchema>;
