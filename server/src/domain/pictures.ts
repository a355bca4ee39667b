// Finished pictures to look at: which layers they have, and their tiles, which are made when somebody asks for them
// first.
import { mkdir, rm, stat, utimes } from 'node:fs/promises';
import { join } from 'node:path';
import { AppError } from '@variscen/contract';
import {
  type Grade,
  NO_GRADE,
  PICTURE_LAYER,
  type PictureLayer,
  type ShownObject,
  type TileAt,
  isTileOf,
  layersIn,
  levelsOf,
  readExrAbout,
} from '@variscen/core/image';
import { gradeOf } from '@variscen/core/looks';
import { type ReferenceRow, type RenderRow, References, Renders } from '../db/entities/index.ts';
import { type TiledAbout, readAbout, readTiles } from '../files/tiledPicture.ts';
import { trimFolder } from '../files/trimFolder.ts';
import type { PictureSource } from '../files/developed.ts';
import { withExr } from '../files/exrSource.ts';
import { sha256 } from '../files/store.ts';
import { runTask } from '../work/run.ts';
import type { TilesTask } from '../work/tasks.ts';
import type { Context } from './context.ts';

/** What is kept of all pictures together; those not looked at for longest go first. */
const MOST_KEPT_BYTES = 20e9;
const TRIMMED_EVERY = 50;
const MOST_KNOWN = 2000;
/** As good as its light is known, first. */
const SHOWN = ['tiff', 'png', 'webp', 'jpeg', 'thumbnail'] as const;

/** A layer, and where its numbers are. */
type SourcedLayer = PictureLayer & { readonly isLinear: boolean; readonly source: TilesTask['source'] };

export class PictureService {
  private readonly known = new Map<string, TiledAbout>();
  private readonly making = new Map<string, Promise<TiledAbout>>();
  private made = 0;

  constructor(private readonly c: Context) {}

  async layers(renderId: string): Promise<{ layers: (PictureLayer & { isLinear: boolean })[]; grade: Grade }> {
    const { layers, grade } = await this.opened(renderId);
    const isLinear = layers.every((l) => l.isLinear);
    return {
      layers: layers.map(({ source: _, ...layer }) => layer),
      // what was written only as a screen shows it is shown as it is
      grade: isLinear ? grade : NO_GRADE,
    };
  }

  /** Made where it is not there yet; several who ask for it wait for the same. */
  async about(renderId: string, layer: string): Promise<TiledAbout> {
    const path = this.pathOf(renderId, layer);
    const found = this.known.get(path) ?? (await readAbout(path).catch(() => null));
    if (found && (await isThere(path))) {
      this.know(path, found);
      return found;
    }
    let making = this.making.get(path);
    if (!making) {
      making = this.make(renderId, layer, path).finally(() => this.making.delete(path));
      this.making.set(path, making);
    }
    return making;
  }

  async tiles(renderId: string, layer: string, wanted: readonly TileAt[]): Promise<Uint8Array[]> {
    const about = await this.about(renderId, layer);
    const levels = levelsOf(about);
    if (!wanted.every((tile) => isTileOf(levels, tile)))
      throw new AppError('NOT_FOUND', 'The picture has no such tile.', 'Open it again.');
    const path = this.pathOf(renderId, layer);
    try {
      return await readTiles(path, about, wanted);
    } catch {
      await this.forget(path); // damaged or gone: it is made anew
      return readTiles(path, await this.about(renderId, layer), wanted);
    }
  }

  private async make(renderId: string, layer: string, path: string): Promise<TiledAbout> {
    const sourced = (await this.opened(renderId)).layers.find((l) => l.name === layer);
    if (!sourced) throw new AppError('NOT_FOUND', `The picture has no layer “${layer}”.`);
    let about: TiledAbout;
    try {
      await mkdir(join(this.c.picturesFolder, renderId), { recursive: true });
      await runTask({ kind: 'tiles', source: sourced.source, file: path });
      about = await readAbout(path);
    } catch (e) {
      await this.mustBeThere(renderId); // one that was closed meanwhile is gone, which is no fault
      throw e;
    }
    this.know(path, about);
    if (this.made++ % TRIMMED_EVERY === 0) await trimFolder(this.c.picturesFolder, MOST_KEPT_BYTES);
    return about;
  }
  private know(path: string, about: TiledAbout): void {
    this.known.delete(path);
    this.known.set(path, about);
    const [oldest] = this.known.keys();
    if (this.known.size > MOST_KNOWN && oldest !== undefined) this.known.delete(oldest);
    const now = new Date();
    void utimes(path, now, now).catch(() => undefined);
  }
  private async forget(path: string): Promise<void> {
    this.known.delete(path);
    await rm(path, { force: true });
  }
  private pathOf(renderId: string, layer: string): string {
    // a light group may have any name
    const name = /^[\w.-]{1,80}$/.test(layer) ? layer : sha256(new TextEncoder().encode(layer));
    return join(this.c.picturesFolder, renderId, `${name}.tiles`);
  }

  /** What covers a pixel, in shares of the picture's width and height. */
  async objectsAt(renderId: string, at: readonly [number, number]): Promise<readonly ShownObject[]> {
    return (await runTask({ kind: 'objectsAt', path: await this.withObjects(renderId), at })).objects;
  }
  /** Writes what an object is of a picture to a file. @returns its bytes */
  async mask(renderId: string, object: string, file: string): Promise<number> {
    return (await runTask({ kind: 'objectMask', path: await this.withObjects(renderId), object, file })).bytes;
  }
  /** The file that has its ids. */
  private async withObjects(renderId: string): Promise<string> {
    const reference = await this.reference(renderId);
    if (reference?.kind === 'exr') return this.c.assets.path(reference.hash);
    const files = filesThere(await this.find(renderId));
    const file = ['exr-objects', 'exr'].map((kind) => files.find((f) => f.kind === kind)).find(Boolean);
    if (file) return this.whole(file);
    throw new AppError('NOT_FOUND', 'This picture was not written as OpenEXR, so that nobody knows what is where.');
  }

  /** What it is made anew from, to be shown or written. */
  async toDevelop(renderId: string): Promise<PictureSource> {
    const render = await this.find(renderId);
    const light = filesThere(render).find((f) => f.kind === 'exr');
    if (light) return { kind: 'exr', path: await this.whole(light), grade: shownBy(render) };
    return { kind: 'shown', path: await this.whole(shownFile(render)) };
  }

  private async find(renderId: string): Promise<RenderRow> {
    const render = await this.c.db.getRepository(Renders).findOneBy({ id: renderId });
    if (!render) throw new AppError('NOT_FOUND', 'There is no such picture.');
    return render;
  }

  private async mustBeThere(id: string): Promise<void> {
    if (!(await this.reference(id))) await this.find(id);
  }
  /** A picture that was rendered here, or a reference. */
  private async opened(id: string): Promise<{ layers: readonly SourcedLayer[]; grade: Grade }> {
    const reference = await this.reference(id);
    if (reference) return { layers: await this.ofReference(reference), grade: NO_GRADE };
    const render = await this.find(id);
    return { layers: await this.sourced(render), grade: shownBy(render) };
  }
  private reference(id: string): Promise<ReferenceRow | null> {
    return this.c.db.getRepository(References).findOneBy({ id });
  }
  /** @throws AppError NOT_FOUND of one whose content is gone */
  private async ofReference({ name, hash, kind }: ReferenceRow): Promise<readonly SourcedLayer[]> {
    const path = this.c.assets.path(hash);
    if (!(await isThere(path)))
      throw new AppError('NOT_FOUND', `“${name}” is gone from the data folder.`, 'Close it, and open its file again.');
    if (kind === 'shown') return [shownLayer(path)];
    const layers = await layersOf(path);
    return layers.map((layer) => ({ ...layer, isLinear: true, source: { kind: 'exr', path, layer: layer.name } }));
  }
  private async sourced(render: RenderRow): Promise<readonly SourcedLayer[]> {
    const files = filesThere(render).filter((f) => f.kind === 'exr' || f.kind.startsWith('exr-'));
    if (!files.length) return [shownLayer(await this.whole(shownFile(render)))];
    const found: SourcedLayer[] = [];
    for (const file of files) {
      const path = await this.whole(file);
      // of a layer that several files have, the first has it
      for (const layer of await layersOf(path))
        if (!found.some((l) => l.name === layer.name))
          found.push({ ...layer, isLinear: true, source: { kind: 'exr', path, layer: layer.name } });
    }
    return found;
  }
  /** @throws AppError FILE_CHANGED of one that is another than was written, NOT_FOUND where it is gone */
  private async whole(file: RenderRow['files'][number]): Promise<string> {
    const path = await this.c.output.toRead(file.path);
    if (await this.c.output.faultOf(file))
      throw new AppError('FILE_CHANGED', `“${file.path}” is not the picture that was rendered.`);
    return path;
  }
}

const shownLayer = (path: string): SourcedLayer => ({
  name: PICTURE_LAYER,
  kind: 'light',
  channels: ['R', 'G', 'B', 'A'],
  isLinear: false,
  source: { kind: 'shown', path },
});

/** Its header alone is read, which is quick. */
const layersOf = (path: string): Promise<PictureLayer[]> =>
  withExr(path, async (source) => layersIn((await readExrAbout(source)).channels));

/** Where they were cleaned up, the small picture. */
const filesThere = ({ files, cleaningId }: RenderRow): RenderRow['files'] =>
  cleaningId === null ? files : files.filter((f) => f.kind === 'thumbnail');

/** Of what a screen shows, the file that has the most of it. */
function shownFile(render: RenderRow): RenderRow['files'][number] {
  const files = filesThere(render);
  const file = SHOWN.map((kind) => files.find((f) => f.kind === kind)).find(Boolean);
  if (!file) throw new AppError('NOT_FOUND', 'This picture has no file that can be looked at.');
  return file;
}

/** How its look shows its light. */
function shownBy({ inputs }: RenderRow): Grade {
  const values = new Map(inputs.values.map(([target, property, value]) => [`${target} ${property}`, value]));
  return gradeOf({ get: (target, property) => values.get(`${target} ${property}`) });
}

const isThere = (path: string): Promise<boolean> =>
  stat(path).then(
    () => true,
    () => false,
  );
