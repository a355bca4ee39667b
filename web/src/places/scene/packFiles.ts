// Several files that belong together, as one zip: a .gltf with its buffers and pictures, an .obj with its .mtl. Nothing
// is compressed, so that it costs only a copy.
import { Zip, ZipPassThrough } from 'fflate';

export interface Dropped {
  readonly path: string;
  readonly file: File;
}

/** One file goes as it is. Named after the scene among them. */
export async function packFiles(files: readonly Dropped[]): Promise<{ readonly name: string; readonly body: Blob }> {
  const [only] = files;
  if (!only) throw new Error('No file was given.');
  if (files.length === 1) return { name: only.file.name, body: only.file };
  const scene = files.find((f) => /\.(glb|gltf|obj)$/i.test(f.path)) ?? only;
  const parts: Uint8Array<ArrayBuffer>[] = [];
  const zip = new Zip((e, chunk) => {
    if (e) throw e;
    parts.push(chunk as Uint8Array<ArrayBuffer>);
  });
  for (const { path, file } of files) {
    const entry = new ZipPassThrough(path);
    zip.add(entry);
    const reader = file.stream().getReader();
    for (let r = await reader.read(); !r.done; r = await reader.read()) entry.push(r.value);
    entry.push(new Uint8Array(0), true);
  }
  zip.end();
  return { name: scene.file.name, body: new Blob(parts) };
}

/** What was dropped, folders with all that is in them, under paths from the dropped thing on. */
export async function droppedFiles(data: DataTransfer): Promise<Dropped[]> {
  const entries = [...data.items].map((i) => i.webkitGetAsEntry()).filter((e) => e !== null);
  const out: Dropped[] = [];
  const read = async (e: FileSystemEntry): Promise<void> => {
    if (e.isFile) {
      const file = await new Promise<File>((done, fail) => (e as FileSystemFileEntry).file(done, fail));
      out.push({ path: e.fullPath.replace(/^\//, ''), file });
      return;
    }
    const reader = (e as FileSystemDirectoryEntry).createReader();
    for (;;) {
      const some = await new Promise<FileSystemEntry[]>((done, fail) => reader.readEntries(done, fail));
      if (!some.length) return;
      for (const x of some) await read(x);
    }
  };
  if (entries.length) for (const e of entries) await read(e);
  else for (const file of data.files) out.push({ path: file.name, file });
  return out.filter((f) => !f.path.split('/').some((p) => p.startsWith('.')));
}
export const pickedFiles = (list: FileList): Dropped[] =>
  [...list].map((file) => ({ path: file.webkitRelativePath || file.name, file }));
