// Files of options: read with their faults said, and saved from the page.
import { looksFileSchema, type LooksSource } from '@variscen/contract';

const MOST_BYTES = 64e6;

/** @throws Error that names the file and what is wrong with it */
export async function readLooksFile(file: File): Promise<LooksSource> {
  const failed = (why: string) => new Error(`“${file.name}” ${why}`);
  if (file.size > MOST_BYTES) throw failed('is larger than 64 MB.');
  let json: unknown;
  try {
    json = JSON.parse(await file.text());
  } catch {
    throw failed('is not a file of options: it is no JSON.');
  }
  const read = looksFileSchema.safeParse(json);
  if (!read.success) {
    const issue = read.error.issues[0]!;
    throw failed(`cannot be read${issue.path.length ? ` at ${issue.path.join('.')}` : ''}: ${issue.message}`);
  }
  return { file: read.data };
}
export function saveFile(name: string, content: unknown): void {
  const url = URL.createObjectURL(new Blob([JSON.stringify(content, null, 1)], { type: 'application/json' }));
  const a = document.createElement('a');
  a.href = url;
  a.download = name;
  a.click();
  URL.revokeObjectURL(url);
}
export const looksFileName = (name: string): string =>
  `${
    name
      .normalize('NFKC')
      .toLowerCase()
      .replace(/[^\p{L}\p{N}]+/gu, '-')
      .replace(/^-+|-+$/g, '') || 'options'
  }.looks.json`;
