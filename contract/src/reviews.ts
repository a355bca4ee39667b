// Shapes of what people say of pictures, and of the list of pictures that they are said of.
import * as z from 'zod';
import { idSchema, nameSchema } from './looks.ts';

export const verdictSchema = z.enum(['approved', 'rejected']);
export const MOST_NOTE = 4000;
/** Places in shares of the picture's width and height, from its left and top. */
const place = z.tuple([z.number().min(0).max(1), z.number().min(0).max(1)]);
/** A line drawn on a picture, and what it is about. */
export const markSchema = z.object({
  id: idSchema,
  points: z.array(place).min(1).max(500),
  text: z.string().max(500),
});
export const reviewSchema = z
  .object({
    renderId: idSchema,
    cameraId: idSchema,
    variantId: idSchema,
    version: z.int().positive(),
    /** null: nobody has judged it. */
    verdict: verdictSchema.nullable(),
    note: z.string().max(MOST_NOTE),
    marks: z.array(markSchema).max(100),
    saidAt: z.string(),
  })
  .meta({ id: 'Review' });
/** What is given is set, the rest stays. */
export const reviewChangeSchema = z.object({
  verdict: verdictSchema.nullable().optional(),
  note: z.string().max(MOST_NOTE, `A note has at most ${MOST_NOTE} letters.`).optional(),
  marks: z.array(markSchema).max(100, 'A picture has at most 100 marks.').optional(),
});

/** A part of a camera's frame that is measured in all of its pictures: two corners, in shares of width and height. */
export const regionSchema = z
  .object({
    id: idSchema,
    cameraId: idSchema,
    name: nameSchema,
    from: place,
    to: place,
  })
  .meta({ id: 'Region' });
export const MOST_REGIONS = 50;

/** A picture, as a list of them names it. */
export const renderedSchema = z
  .object({
    id: idSchema,
    cameraId: idSchema,
    variantId: idSchema,
    frame: z.int().nonnegative().nullable(),
    version: z.int().positive(),
    batchId: idSchema.nullable(),
    profileName: z.string(),
    widthPx: z.int(),
    heightPx: z.int(),
    createdAt: z.string(),
  })
  .meta({ id: 'Rendered' });

export type Verdict = z.infer<typeof verdictSchema>;
export type Mark = z.infer<typeof markSchema>;
export type Review = z.infer<typeof reviewSchema>;
export type Region = z.infer<typeof regionSchema>;
export type ReviewChange = z.infer<typeof reviewChangeSchema>;
export type Rendered = z.infer<typeof renderedSchema>;

/** Which cells are made anew from stored light, and why others, or some of their frames, are not. */
export const developAnswerSchema = z
  .object({
    cells: z.array(z.object({ cameraId: idSchema, variantId: idSchema })),
    /** Of these cells together: of a sequence each frame is one. */
    pictures: z.int().nonnegative(),
    refused: z.array(z.object({ cameraId: idSchema, variantId: idSchema, why: z.string() })),
  })
  .meta({ id: 'DevelopAnswer' });
export type DevelopAnswer = z.infer<typeof developAnswerSchema>;

/** Notes that somebody made on the page of a delivery. */
export const notesFileSchema = z.object({
  format: z.literal('variscen.notes', 'This is no file of notes from a page of Variscen.'),
  version: z.literal(1, 'This file of notes is from a newer Variscen.'),
  delivery: z.int().nonnegative(),
  notes: z
    .array(z.object({ renderId: idSchema, verdict: verdictSchema.nullable(), note: z.string().max(MOST_NOTE) }))
    .max(10_000),
});
export type NotesFile = z.infer<typeof notesFileSchema>;

/** A contact sheet of pictures, in the order in which they are named. */
export const sheetSchema = z.object({
  renderIds: z.array(idSchema).min(1, 'Select at least one picture.').max(2000, 'A sheet has at most 2,000 pictures.'),
  /** grid: cameras down, variants across; rows: one after another. */
  arrangement: z.enum(['grid', 'rows']),
  /** Of rows. */
  columns: z.int().min(1).max(12),
  format: z.enum(['pdf', 'png']),
  paper: z.enum(['a4', 'a3', 'letter']),
  orientation: z.enum(['landscape', 'portrait']),
  /** Of a PNG. */
  widthPx: z.int().min(600).max(16_384),
  background: z.enum(['white', 'grey', 'black']),
  title: z.string().max(200),
  label: z.string().max(300),
});
export type SheetAsked = z.infer<typeof sheetSchema>;
