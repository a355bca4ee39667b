// A file of notes, as the page of a delivery saves it.
import { type NotesFile, notesFileSchema } from '@variscen/contract';
import { ApiError } from '../../../api/client.ts';

/** @throws ApiError by the name of the file */
export function notesIn(fileName: string, text: string): NotesFile {
  let found: unknown;
  try {
    found = JSON.parse(text);
  } catch {
    throw new ApiError('INVALID', `“${fileName}” is no file of notes.`, REMEDY);
  }
  const parsed = notesFileSchema.safeParse(found);
  if (parsed.success) return parsed.data;
  throw new ApiError('INVALID', `“${fileName}”: ${parsed.error.issues[0]?.message ?? 'it is damaged'}`, REMEDY);
}
const REMEDY = 'Take the file that was saved on the page of a delivery.';
