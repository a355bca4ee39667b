// Shapes of finished pictures as they are looked at.
import * as z from 'zod';
import { hashSchema } from './looks.ts';

const rgb = z.tuple([z.number(), z.number(), z.number()]);
/** How a look is shown (core/src/image/grade.ts). */
export const gradeSchema = z
  .object({
    exposureEv: z.number(),
    whiteKelvin: z.number(),
    whiteTint: z.number(),
    slope: rgb,
    offset: rgb,
    power: rgb,
    contrast: z.number(),
    saturation: z.number(),
    rolloff: z.number(),
    lut: z.object({ hash: hashSchema, size: z.int(), name: z.string() }).nullable(),
    lutStrength: z.number(),
    vignette: z.number(),
    bloom: z.number(),
    bloomSize: z.number(),
  })
  .meta({ id: 'Grade' });

export const pictureLayerSchema = z
  .object({
    /** picture, or the name of an AOV as its channels have it. */
    name: z.string(),
    kind: z.enum(['light', 'distance', 'vector', 'share', 'amount']),
    channels: z.array(z.string()).min(1).max(4),
    /**
     * Whether its numbers are as they were rendered. Where a picture was written only as a screen shows it, they are
     * what the screen's curve leaves of them.
     */
    isLinear: z.boolean(),
  })
  .meta({ id: 'PictureLayer' });

export const tiledPictureSchema = z
  .object({ widthPx: z.int().positive(), heightPx: z.int().positive(), channels: z.int().min(1).max(4) })
  .meta({ id: 'TiledPicture' });
