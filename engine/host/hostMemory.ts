// What the program around the kernel holds beside the kernel's memory.
import type { MemoryBytes } from './memoryPlaces.ts';
import { isCut } from './filmGrid.ts';
import { PLANE_SPECS, type RenderSettings, layersOf, planesOf } from './renderSettings.ts';

/**
 * Bytes a pixel while a picture is finished and written: samples and coverage (8), the blended film (16), depth in two
 * ways (8), the error (4), a line drawing (4) and the picture for display (3); the rest is what packing the files
 * holds, measured at 2 megapixels with all layers.
 */
const FINISHING_BYTES = 120;

/**
 * The most that is held at once, as far as it follows from a job: first the environment maps that are packed, while
 * film and scratch are not in use yet; at the end what a picture is finished in. Meshes and textures come part by part.
 * @param pixels of the picture
 */
export function hostBytes({ lights, film, scratch }: MemoryBytes, pixels: number): number {
  return Math.max(pixels * FINISHING_BYTES, lights - film - scratch);
}
/**
 * Floats a pixel while a film is mixed: all light, that of half its samples, what glows and what was scattered once.
 */
const MIXING_FLOATS = 12;
/**
 * What is held besides where several lightings come from one film. Of a part of a film each picture is a copy of what
 * lies in the kernel's memory, so that the next can be mixed there. 0 of one lighting.
 * @param pixels of the picture
 */
export function mixingBytes(settings: RenderSettings, pixels: number): number {
  if (!settings.parts) return 0;
  const planes = isCut(settings) ? planesOf(settings).filter((name) => !name.startsWith('parts')) : [];
  const copied = planes.reduce((n, name) => n + PLANE_SPECS[name][1] * layersOf(name, settings), planes.length ? 4 : 0);
  return pixels * (copied + MIXING_FLOATS) * 4;
}
/** All of a job's kinds together. */
export const sumOf = (bytes: MemoryBytes): number => Object.values(bytes).reduce((n, b) => n + b, 0);
