// Meshes and textures as a node's engine loads them, part by part when rays reach them: made once a machine, kept on
// its disk. The whole of one is in memory only while it is made, one at a time; meshes by an engine of its own, which
// is closed after.
import { mkdir, readdir, rm, stat, utimes } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import pLimit from 'p-limit';
import type { StandIn } from '@variscen/core/cull';
import type { Geometry, SceneMesh, SceneTexture } from '@variscen/core/scene';
import { simplified } from '@variscen/core/simplify';
import {
  type Engine,
  HEAD_BYTES,
  type SelectionData,
  type StoredData,
  type StoredMesh,
  type StoredTexture,
  type Texels,
  headBytes,
  readStoredHead,
} from '@variscen/engine';
import { openNodeEngine } from '@variscen/engine/node';
import { UNFINISHED, keepFile, partReader, readPart } from './keptFile.ts';
import {
  TEXTURE_HEAD_BYTES,
  type TextureSize,
  bytesOfTexture,
  isHeadOf,
  readLevel,
  textureFile,
} from './textureFile.ts';
import { trimFolder } from './trimFolder.ts';

/** Files looked at or read at a time. */
const AT_ONCE = 16;

export class StoredParts {
  private readonly folder: string;
  private readonly looking = pLimit(AT_ONCE);
  private readonly making = pLimit(1);

  /**
   * @param folder of this node @param engineBuild what is kept is of one engine
   * @param mostBytes of what is kept when a trace begins; what was not used for longest goes
   */
  constructor(
    folder: string,
    private readonly engineBuild: string,
    private readonly mostBytes: number,
    private readonly log: (message: string) => void,
  ) {
    this.folder = join(folder, 'parts');
  }

  /** Others may be at work in the same folder. */
  async share(): Promise<void> {
    await mkdir(this.folder, { recursive: true });
  }
  /** By a node when it starts: what was cut short when one ended before is dropped. */
  async open(): Promise<void> {
    await rm(join(dirname(this.folder), 'meshes'), { recursive: true, force: true }); // as it was called before
    await this.share();
    for (const name of await readdir(this.folder))
      if (name.endsWith(UNFINISHED)) await rm(join(this.folder, name), { force: true });
  }
  trim(): Promise<void> {
    return trimFolder(this.folder, this.mostBytes);
  }

  /** What a trace takes its meshes and textures from; to be closed when they are there. */
  forTrace(): TraceParts {
    return new TraceParts(this);
  }

  /**
   * @param geometry of the mesh, where it has to be made
   * @param standIn it is simplified
   * @returns undefined where it cannot be kept
   */
  mesh(
    about: SceneMesh,
    geometry: () => Promise<Geometry>,
    engine: () => Promise<Engine>,
    standIn?: Pick<StandIn, 'exponent'>,
  ): Promise<StoredMesh | undefined> {
    const path = this.pathOf(standIn ? `${about.blob}-simplified${standIn.exponent}` : about.blob);
    return this.kept(
      path,
      () => storedMesh(path, about.name),
      async () => {
        const whole = await geometry();
        const made = standIn ? await simplified(whole, 2 ** standIn.exponent) : whole;
        const file = await (await engine()).store({ name: about.name, ...made });
        return { bytes: file.length, parts: [file] };
      },
    );
  }
  /**
   * @param isSrgb its colours are averaged as light @param pixels of the texture, where it has to be made
   * @returns undefined where it cannot be kept
   */
  texture(about: SceneTexture, isSrgb: boolean, pixels: () => Promise<Texels>): Promise<StoredTexture | undefined> {
    const path = this.pathOf(`${about.blob}-${isSrgb ? 'srgb' : 'linear'}`);
    return this.kept(
      path,
      () => storedTexture(path, about),
      async () => {
        const size = sizeOf(about);
        return { bytes: bytesOfTexture(size), parts: textureFile(size, await pixels(), isSrgb) };
      },
    );
  }
  private pathOf(name: string): string {
    return join(this.folder, `${name}-${this.engineBuild.slice(0, 16)}`);
  }

  /** What is there, or what is made: one at a time. */
  private async kept<T>(
    path: string,
    find: () => Promise<T | undefined>,
    make: () => Promise<{ readonly bytes: number; readonly parts: Iterable<Uint8Array> }>,
  ): Promise<T | undefined> {
    const known = await this.looking(find);
    if (known) return known;
    return this.making(async () => {
      const made = await find(); // asked for twice
      if (made) return made;
      const { bytes, parts } = await make();
      try {
        await keepFile(path, bytes, parts);
      } catch (e) {
        this.log(`Meshes and textures cannot be kept in ${this.folder}: ${e instanceof Error ? e.message : String(e)}`);
        return undefined;
      }
      return find();
    });
  }
}

/** Makes what meshes are missing with one engine, which is opened when some are. */
export class TraceParts {
  private engine: Promise<Engine> | undefined;
  constructor(private readonly parts: StoredParts) {}

  /** What a selection takes from some sources, part by part where it can be. @param meshes of the document */
  over(sources: SelectionData, meshes: readonly SceneMesh[]): StoredData {
    const engine = () => (this.engine ??= openNodeEngine(1));
    return {
      ...sources,
      stored: (i, standIn) => this.parts.mesh(meshes[i]!, () => sources.geometry(i), engine, standIn),
      storedTexture: (t, isSrgb) => this.parts.texture(t, isSrgb, () => sources.pixels(t)),
    };
  }
  async close(): Promise<void> {
    await (await this.engine)?.close();
  }
}

/** undefined where there is none, or none that can be read. */
async function storedMesh(path: string, name: string): Promise<StoredMesh | undefined> {
  const read = (from: number, bytes: number) => readPart(path, from, bytes);
  const head = await usable(path, async () => readStoredHead(await read(0, headBytes(await read(0, HEAD_BYTES)))));
  return head && { name, head, read: partReader(path, 'BAD_MESH', `Mesh “${name}”`) };
}
async function storedTexture(path: string, about: SceneTexture): Promise<StoredTexture | undefined> {
  const size = sizeOf(about);
  const isUsable = await usable(path, async () => {
    const isOfIt = isHeadOf(await readPart(path, 0, TEXTURE_HEAD_BYTES), size);
    if (!isOfIt || (await stat(path)).size !== bytesOfTexture(size)) throw new Error('it is another file');
    return true;
  });
  const read = partReader(path, 'BAD_TEXTURE', `Texture “${about.name}”`);
  return isUsable ? { bits: size.bits, level: (level) => readLevel(size, level, read) } : undefined;
}
const sizeOf = ({ width, height, bits }: SceneTexture): TextureSize => ({ width, height, bits: bits ?? 8 });

/** Reads what has to be known of a kept file, and notes that it was used; what is of no use is dropped. */
async function usable<T>(path: string, read: () => Promise<T>): Promise<T | undefined> {
  try {
    const found = await read();
    const now = new Date();
    await utimes(path, now, now);
    return found;
  } catch {
    await rm(path, { force: true }).catch(() => undefined);
    return undefined;
  }
}
