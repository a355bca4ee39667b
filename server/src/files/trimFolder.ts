import { readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';

interface Kept {
  readonly path: string;
  readonly bytes: number;
  readonly usedMs: number;
}

/** Makes room: of the files below a folder those go that were used longest ago, until no more than this is kept. */
export async function trimFolder(folder: string, mostBytes: number): Promise<void> {
  const files = await filesBelow(folder);
  let bytes = files.reduce((n, f) => n + f.bytes, 0);
  for (const f of files.sort((a, b) => a.usedMs - b.usedMs)) {
    if (bytes <= mostBytes) return;
    await rm(f.path, { force: true });
    bytes -= f.bytes;
  }
}
/** Those that are gone while it looks are left out. */
export async function filesBelow(folder: string): Promise<Kept[]> {
  const out: Kept[] = [];
  const entries = await readdir(folder, { recursive: true, withFileTypes: true }).catch(() => []);
  for (const e of entries) {
    if (!e.isFile()) continue;
    const path = join(e.parentPath, e.name);
    const found = await stat(path).catch(() => null);
    if (found) out.push({ path, bytes: found.size, usedMs: found.mtimeMs });
  }
  return out;
}
