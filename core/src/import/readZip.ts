// What is in a zip file: everything unsafe is refused by name before it is unpacked, and what is unpacked is compared
// with its checksum.
import { type FileEntry, Uint8ArrayReader, ZipReader, configure } from '@zip.js/zip.js';
import { ImportError } from '../scene/index.ts';

// the import has a process of its own
configure({ useWebWorkers: false });

const LIMITS = { entries: 10_000, unpackedBytes: 4 * 2 ** 30, ratio: 200, smallBytes: 1e6 };

/** @throws ImportError */
export async function readZip(fileName: string, bytes: Uint8Array): Promise<Record<string, Uint8Array>> {
  // names are looked at below, so that they can be said
  const zip = new ZipReader(new Uint8ArrayReader(bytes), { filenameValidation: 'tolerant' });
  try {
    const entries = await entriesOf(zip, fileName);
    const files: Record<string, Uint8Array> = {};
    for (const e of entries) files[e.filename] = await unpack(fileName, e);
    return files;
  } finally {
    await zip.close();
  }
}

async function entriesOf(zip: ZipReader<Uint8Array>, fileName: string): Promise<FileEntry[]> {
  const files: FileEntry[] = [];
  let unpackedBytes = 0;
  try {
    for await (const e of zip.getEntriesGenerator()) {
      if (files.length >= LIMITS.entries)
        throw new ImportError('UNSAFE', `“${fileName}” has more than ${LIMITS.entries} files in it.`);
      if (e.directory) continue;
      unpackedBytes += e.uncompressedSize;
      refuseUnsafe(fileName, e, unpackedBytes);
      files.push(e);
    }
  } catch (e) {
    if (e instanceof ImportError) throw e;
    throw new ImportError('UNREADABLE', `“${fileName}” is not a readable zip file. Pack it again.`);
  }
  return files;
}

function refuseUnsafe(fileName: string, e: FileEntry, unpackedBytes: number): void {
  const name = e.filename;
  if (name.split(/[/\\]/).includes('..') || /^([/\\]|[a-z]:)/i.test(name))
    throw new ImportError(
      'UNSAFE',
      `“${fileName}” holds the path “${name}”, which leads out of its folder. Pack the scene again.`,
    );
  const mostBytes = Math.max(LIMITS.smallBytes, e.compressedSize * LIMITS.ratio);
  if (unpackedBytes > LIMITS.unpackedBytes || e.uncompressedSize > mostBytes)
    throw new ImportError(
      'UNSAFE',
      `“${name}” in “${fileName}” unpacks to far more than a scene file would. Pack the scene again without it.`,
    );
  if (e.encrypted)
    throw new ImportError(
      'UNREADABLE',
      `“${name}” in “${fileName}” is encrypted. Pack the scene again without a password.`,
    );
}

async function unpack(fileName: string, e: FileEntry): Promise<Uint8Array> {
  const out = new Uint8Array(e.uncompressedSize);
  let at = 0;
  const writable = new WritableStream<Uint8Array>({
    write(chunk) {
      if (at + chunk.length > out.length) throw new Error('longer than it says');
      out.set(chunk, at);
      at += chunk.length;
    },
  });
  try {
    await e.getData(writable, { checkSignature: true });
  } catch {
    throw damaged(fileName, e.filename);
  }
  if (at !== out.length) throw damaged(fileName, e.filename);
  return out;
}
const damaged = (fileName: string, name: string) =>
  new ImportError('UNREADABLE', `“${name}” in “${fileName}” is damaged: it is not what was packed. Pack it again.`);
