// What the program around the kernel holds beside the kernel's memory.
import type { MemoryBytes } from './memoryPlan.ts';

/**
 * Bytes a pixel while a picture is finished and written: samples and coverage (8), the blended film (16), depth in two
 * ways (8), the error (4), a line drawing (4) and the picture for display (3); the rest is what packing the files holds,
 * measured at 2 megapixels with all layers.
 */
const FINISHING_BYTES = 120;

/**
 * The most that is held at once, as far as it follows from a job: first the environment maps that are packed, while film
 * and scratch are not in use yet; at the end what a picture is finished in. Meshes and textures come part by part.
 * @param pixels of the picture
 */
export function hostBytes({ lights, film, scratch }: MemoryBytes, pixels: number): number {
  return Math.max(pixels * FINISHING_BYTES, lights - film - scratch);
}
/** All of a job's kinds together. */
export const sumOf = (bytes: MemoryBytes): number => Object.values(bytes).reduce((n, b) => n + b, 0);
