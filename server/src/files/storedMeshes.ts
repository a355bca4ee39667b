// Meshes as a node's engine loads them, piece by piece when rays reach them: made once a machine, kept on its disk. The
// whole of a mesh is in memory only while it is made, one mesh at a time, by an engine of its own that is closed after.
import { randomUUID } from 'node:crypto';
import { mkdir, open, readdir, rename, rm, statfs, utimes } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import pLimit from 'p-limit';
import type { Geometry, SceneMesh } from '@variscen/core/scene';
import { type Engine, EngineError, HEAD_BYTES, type StoredMesh, headBytes, readStoredHead } from '@variscen/engine';
import { openNodeEngine } from '@variscen/engine/node';
import { trimFolder } from './trimFolder.ts';

/** Files looked at or read at a time. */
const AT_ONCE = 16;
const UNFINISHED = '.new';
/** Stays free on the disk: the queue stands still where little is, and a cache must not be why. */
const LEAST_FREE_BYTES = 2 ** 30;

export class StoredMeshes {
  private readonly folder: string;
  private readonly looking = pLimit(AT_ONCE);
  private readonly making = pLimit(1);

  /**
   * @param folder of this node @param engineBuild structures are those of one engine
   * @param mostBytes of what is kept when a trace begins; what was not used for longest goes
   */
  constructor(
    folder: string,
    private readonly engineBuild: string,
    private readonly mostBytes: number,
    private readonly log: (message: string) => void,
  ) {
    this.folder = join(folder, 'meshes');
  }

  /** What was cut short when a node ended is dropped. */
  async open(): Promise<void> {
    await mkdir(this.folder, { recursive: true });
    for (const name of await readdir(this.folder))
      if (name.endsWith(UNFINISHED)) await rm(join(this.folder, name), { force: true });
  }
  trim(): Promise<void> {
    return trimFolder(this.folder, this.mostBytes);
  }

  /** What a trace takes its meshes from; to be closed when they are there. */
  forTrace(): TraceMeshes {
    return new TraceMeshes(this);
  }

  /**
   * @param geometry of the mesh, where it has to be made
   * @returns undefined where it cannot be kept
   */
  async mesh(
    about: SceneMesh,
    geometry: () => Promise<Geometry>,
    engine: () => Promise<Engine>,
  ): Promise<StoredMesh | undefined> {
    const path = join(this.folder, `${about.blob}-${this.engineBuild.slice(0, 16)}`);
    const known = await this.looking(() => stored(path, about.name));
    if (known) return known;
    return this.making(async () => {
      const made = await stored(path, about.name); // the same mesh, asked for twice
      if (made) return made;
      const bytes = await (await engine()).store({ name: about.name, ...(await geometry()) });
      try {
        await keep(path, bytes);
      } catch (e) {
        this.log(`Meshes cannot be kept in ${this.folder}: ${e instanceof Error ? e.message : String(e)}`);
        return undefined;
      }
      return stored(path, about.name);
    });
  }
}

/** Makes what is missing with one engine, which is opened when something is. */
export class TraceMeshes {
  private engine: Promise<Engine> | undefined;
  constructor(private readonly meshes: StoredMeshes) {}

  mesh(about: SceneMesh, geometry: () => Promise<Geometry>): Promise<StoredMesh | undefined> {
    return this.meshes.mesh(about, geometry, () => (this.engine ??= openNodeEngine(1)));
  }
  async close(): Promise<void> {
    await (await this.engine)?.close();
  }
}

/** undefined where there is none, or none that can be read. */
async function stored(path: string, name: string): Promise<StoredMesh | undefined> {
  const read = (from: number, bytes: number) => readPart(path, from, bytes);
  try {
    const head = readStoredHead(await read(0, headBytes(await read(0, HEAD_BYTES))));
    const now = new Date();
    await utimes(path, now, now);
    return { name, head, read: readerOf(path, name) };
  } catch {
    await rm(path, { force: true }).catch(() => undefined);
    return undefined;
  }
}
/** A damaged one is made again by the next attempt. */
function readerOf(path: string, name: string): StoredMesh['read'] {
  let fault: EngineError | undefined;
  return async (from, bytes) => {
    try {
      return await readPart(path, from, bytes);
    } catch (e) {
      const why = e instanceof Error ? e.message : String(e);
      // others that are read at the same time do not find it any more: that is not why
      fault ??= new EngineError(
        'BAD_MESH',
        `Mesh “${name}” cannot be read from this machine’s cache: ${why}. Try again.`,
      );
      await rm(path, { force: true }).catch(() => undefined);
      throw fault;
    }
  };
}
async function readPart(path: string, from: number, bytes: number): Promise<Uint8Array> {
  const file = await open(path);
  try {
    const out = new Uint8Array(bytes);
    const { bytesRead } = await file.read(out, 0, bytes, from);
    if (bytesRead < bytes) throw new Error('it is cut short');
    return out;
  } finally {
    await file.close();
  }
}
async function keep(path: string, bytes: Uint8Array): Promise<void> {
  const temporary = `${path}-${randomUUID()}${UNFINISHED}`;
  try {
    const { bavail, bsize } = await statfs(dirname(path));
    if (bavail * bsize - bytes.length < LEAST_FREE_BYTES) throw new Error('little is free on the disk');
    const file = await open(temporary, 'wx');
    try {
      await file.writeFile(bytes);
      await file.sync();
    } finally {
      await file.close();
    }
    await rename(temporary, path);
  } catch (e) {
    await rm(temporary, { force: true }).catch(() => undefined);
    throw e;
  }
}
