// What a camera's picture needs, as it was measured, and what it leaves out.
import * as z from 'zod';
import { hashSchema, idSchema } from './looks.ts';

const count = z.number().int().nonnegative();
const share = z.number().nonnegative();
const path = z.string().max(4000);
/** In the order of the scene; a project has no more objects. */
const paths = z.array(path).max(200_000);

export const objectEvidenceSchema = z.object({
  path,
  times: z.object({
    seen: count,
    reflected: count,
    refracted: count,
    bounced: count,
    shadowed: count,
    lit: count,
  }),
  /** Of all that the picture sees. */
  sight: z.object({ seen: share, reflected: share, refracted: share, bounced: share }),
  /** Of all light of the picture. */
  brought: z.number(),
  shadowed: share,
  lit: share,
  nits: z.number(),
  /**
   * What detail of it is told apart by rays that do not come from the camera itself, and by its shadow; null: by none.
   */
  detailM: z.number().nullable(),
  /** Names of the objects in which most of it is reflected, and through which most of it is seen; absent: many. */
  mirror: z.string().optional(),
  glass: z.string().optional(),
});
export const cullEvidenceSchema = z
  .object({
    widthPx: count,
    heightPx: count,
    samples: count,
    lightPaths: count,
    rays: count,
    seconds: z.number(),
    meanNits: z.number(),
    objects: z.array(objectEvidenceSchema),
    /** Objects that were shown, and that no ray met. */
    unmet: paths,
    /** Of a sequence, what comes into the frame between the frames that were measured, and at none of them. */
    entering: paths,
    /** Of each image that is shown the finest level that may have been looked up; 0 is the whole image. */
    textures: z.array(z.object({ image: hashSchema, finest: count })),
    /** Of meshes that are shown, by hash; absent where different engines measured. */
    pieces: z
      .object({
        /** Build of the engine that divided the meshes. */
        engine: z.string(),
        /**
         * What each piece takes, and which of them a ray reached: a bit each, the lowest of a byte first, as base64.
         */
        meshes: z.array(
          z.object({
            mesh: hashSchema,
            bytes: z.array(count),
            met: z.string(),
            /**
             * Of those that a ray reached, in their order: how rays met them, a bit for each of seen, reflected,
             * refracted, bounced, shadowed; how much of the picture’s light each may change; how bright it is.
             */
            ways: z.array(count),
            costs: z.array(z.number()),
            nits: z.array(z.number()),
            /** Something that shows it is of glass. */
            isGlass: z.boolean(),
          }),
        ),
        /** Meshes that were not loaded in pieces. */
        whole: z.array(hashSchema),
      })
      .optional(),
    /** Of a sequence some frames alone were measured. */
    isOfSomeFrames: z.boolean().optional(),
  })
  .meta({ id: 'CullEvidence' });

const planShape = z.object({
  /** So much of the picture's light may go with what evidence names; null: it names nothing. */
  barShare: z.number().min(0).max(0.2).nullable(),
  /** Pinned, and left out by hand. */
  keep: paths,
  leaveOut: paths,
  /** What the camera does not see itself is simplified. */
  simplifies: z.boolean(),
});
export const cullPlanSchema = planShape
  .extend({
    byEvidence: paths,
    /**
     * By hash of the mesh that is simplified: how far off it may be, as a power of two of its metres, and what is left.
     */
    standIns: z.record(
      hashSchema,
      z.object({ exponent: z.int(), vertices: count, triangles: count, accelerationBytes: count }),
    ),
    /** Pieces left out of meshes of what stays, as that build of the engine has divided them; by hash of the mesh. */
    pieces: z.object({
      engine: z.string(),
      meshes: z.record(
        hashSchema,
        z.object({
          count,
          pieces: z.string(),
          bytesShare: z.number().min(0).max(1),
          costShare: z.number(),
          nits: z.number(),
        }),
      ),
    }),
    nits: z.record(z.string(), z.number()),
    /** Names of the variants whose evidence it was made from. */
    from: z.array(z.string()),
  })
  .meta({ id: 'CullPlan' });
export const cullRequestSchema = planShape
  .extend({
    simplifies: z.boolean().default(false),
    cameraIds: z.array(idSchema).min(1).max(1000),
    /** Those of whose evidence it is made; absent: all in which the cameras were measured. */
    variantIds: z.array(idSchema).max(1000).optional(),
  })
  .meta({ id: 'CullRequest' });

export const fitRequestSchema = z
  .object({
    cameraId: idSchema,
    variantIds: z.array(idSchema).min(1).max(1000),
    profileId: z.string(),
  })
  .meta({ id: 'FitRequest' });
/** What may go, beside what is decided by hand, and what the largest of the pictures takes then. */
export const fitSchema = z
  .object({
    barShare: z.number().nullable(),
    simplifies: z.boolean(),
    /** Of the engine and of the process, were all of it to be in memory. */
    bytes: count,
    fits: z.boolean(),
    leftOut: count,
    simplified: count,
  })
  .meta({ id: 'Fit' });
export const fitAnswerSchema = z
  .object({
    budgetBytes: count,
    now: fitSchema,
    /** From what changes the picture least on, up to the first that fits. */
    tried: z.array(fitSchema),
  })
  .meta({ id: 'FitAnswer' });

export type FitRequest = z.infer<typeof fitRequestSchema>;
export type Fit = z.infer<typeof fitSchema>;
export type FitAnswer = z.infer<typeof fitAnswerSchema>;
export type CullEvidenceAnswer = z.infer<typeof cullEvidenceSchema>;
export type CullRequest = z.infer<typeof cullRequestSchema>;
export type CullPlanAnswer = z.infer<typeof cullPlanSchema>;
