// Shapes of deliveries: pictures that were picked, written anew into a folder or a zip, with what tells what they are.
import { DISPLAYS } from '@variscen/core/image';
import * as z from 'zod';
import { hashSchema, idSchema, nameSchema } from './looks.ts';

export const DELIVERY_KINDS = ['exr', 'png', 'png16', 'tiff', 'jpeg', 'webp'] as const;
export const deliveryFormatSchema = z.object({
  kind: z.enum(DELIVERY_KINDS),
  /** null: as large as it was rendered. An OpenEXR is as it was rendered. */
  widthPx: z.int().min(16).max(16_384).nullable(),
  /** Of JPEG and WebP. */
  quality: z.int().min(1).max(100),
});
export const deliveryAskedSchema = z.object({
  name: nameSchema,
  renderIds: z.array(idSchema).min(1, 'Pick at least one picture.').max(5000, 'A delivery has at most 5,000 pictures.'),
  formats: z.array(deliveryFormatSchema).min(1, 'Pick at least one format.').max(12),
  nameTemplate: z.string(),
  target: z.enum(['folder', 'zip']),
  /** Pictures show their look’s grade, or light encoded for the screen and nothing else. */
  isGraded: z.boolean(),
  /** What shows pictures but OpenEXR. */
  display: z.enum(DISPLAYS).default('srgb'),
  /** A contact sheet lies in it. */
  hasSheet: z.boolean(),
  /** A page to look at it in a browser lies in it. */
  hasPage: z.boolean(),
  /** What is delivered though it is so. */
  accepts: z.object({ outdated: z.boolean(), rejected: z.boolean() }),
});
export const deliveryFaultSchema = z.object({
  /** outdated and rejected can be accepted, others not. */
  kind: z.enum(['outdated', 'rejected', 'other']),
  renderId: idSchema.nullable(),
  message: z.string(),
});
/** What a delivery would be, before anything is written. */
export const deliveryPlanSchema = z
  .object({
    /** Where it will lie. */
    path: z.string(),
    files: z.array(z.string()),
    faults: z.array(deliveryFaultSchema),
  })
  .meta({ id: 'DeliveryPlan' });

export const deliveredFileSchema = z.object({
  path: z.string(),
  bytes: z.int().nonnegative(),
  sha256: hashSchema,
  /** null: it is about all of them. */
  renderId: idSchema.nullable(),
});
export const deliveredPictureSchema = z.object({
  renderId: idSchema,
  cameraId: idSchema,
  variantId: idSchema,
  frame: z.int().nullable(),
  camera: z.string(),
  variant: z.string(),
  version: z.int(),
});
/** Against the delivery before it. */
export const deliveryChangesSchema = z.object({
  number: z.int(),
  added: z.array(z.string()),
  gone: z.array(z.string()),
  changed: z.array(z.object({ picture: z.string(), was: z.int(), is: z.int() })),
  same: z.int(),
});
export const DELIVERY_STATES = ['writing', 'done', 'failed'] as const;
export const deliverySchema = z
  .object({
    id: idSchema,
    /** 1, 2, … of its project. */
    number: z.int().positive(),
    asked: deliveryAskedSchema,
    state: z.enum(DELIVERY_STATES),
    fraction: z.number(),
    error: z.string().nullable(),
    /** Of the folder or the zip; relative to the output folder. */
    path: z.string(),
    files: z.int(),
    bytes: z.int(),
    createdAt: z.string(),
    /** null: it is the first, or not done. */
    changes: deliveryChangesSchema.nullable(),
  })
  .meta({ id: 'Delivery' });

export type DeliveryAsked = z.infer<typeof deliveryAskedSchema>;
export type DeliveryFormat = z.infer<typeof deliveryFormatSchema>;
export type DeliveryPlan = z.infer<typeof deliveryPlanSchema>;
export type DeliveryFault = z.infer<typeof deliveryFaultSchema>;
export type DeliveredFile = z.infer<typeof deliveredFileSchema>;
export type DeliveredPicture = z.infer<typeof deliveredPictureSchema>;
export type DeliveryChanges = z.infer<typeof deliveryChangesSchema>;
export type Delivery = z.infer<typeof deliverySchema>;
