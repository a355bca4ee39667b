// Writes a delivery: every picture in every format, a manifest, on wish a contact sheet and a page; aside first, and
// put to its place when it is whole.
import { createReadStream, createWriteStream } from 'node:fs';
import { copyFile, mkdir, open, readdir, rename, rm, stat } from 'node:fs/promises';
import { dirname, join, relative, sep } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { AppError, type DeliveredFile } from '@variscen/contract';
import type { Display } from '@variscen/core/image';
import { stringify } from 'csv-stringify/sync';
import { ZipFile } from 'yazl';
import { developed } from '../files/developed.ts';
import { linked } from '../files/outputFolder.ts';
import { DISPLAY_NAMES } from '../files/colourProfile.ts';
import { PNG, encodedDeep, encodedPlain } from '../files/encoded.ts';
import { described } from '../files/described.ts';
import { hashOfFile } from '../files/store.ts';
import { writeFlushed } from '../files/writeFlushed.ts';
import { writePage } from './deliveryPage.ts';
import { runSheet } from './runSheet.ts';
import type { DeliverTask, DeliveredOutcome } from './tasks.ts';

type Picture = DeliverTask['pictures'][number];
type Format = Picture['files'][number]['format'];
const SHEET_COLUMNS = 4;
const A4_LANDSCAPE = { widthPt: 841.89, heightPt: 595.28 };

export async function runDeliver(t: DeliverTask, progress: (fraction: number) => void): Promise<DeliveredOutcome> {
  await mkdir(t.aside, { recursive: true });
  const total = t.pictures.length + (t.hasSheet ? 1 : 0) + (t.hasPage ? 1 : 0) + (t.target === 'zip' ? 1 : 0);
  let done = 0;
  const counted = () => progress(++done / total);
  const ofPicture = new Map<string, string>();
  for (const picture of t.pictures) {
    for (const { format, path } of picture.files) {
      await writePicture(t, picture, format, join(t.aside, path)).catch((e: unknown) => {
        throw e instanceof AppError ? new AppError(e.code, `${nameOf(picture)}: ${e.message}`, e.remedy) : e;
      });
      ofPicture.set(path, picture.renderId);
    }
    counted();
  }
  if (t.hasSheet) {
    await writeSheet(t);
    counted();
  }
  if (t.hasPage) {
    await writePage(t);
    counted();
  }
  const files = await listed(t.aside, ofPicture);
  const add = async (name: string, text: string) => {
    await writeFlushed(join(t.aside, name), text);
    files.push(await aboutFile(t.aside, name, null));
  };
  await add(
    'pictures.csv',
    stringify(
      files.map((f) => lineOf(t, f)),
      { header: true, bom: true },
    ),
  );
  await add('manifest.json', JSON.stringify(manifestOf(t, files), null, 2));
  await mkdir(dirname(t.to), { recursive: true });
  if (t.target === 'folder') {
    // a folder that has come there meanwhile is not written over: that fails
    await rename(t.aside, t.to);
    return { files };
  }
  const zip = `${t.aside}.zip`;
  await zipped(t.aside, files, zip);
  counted();
  await linked(zip, t.to); // never over a file that has come there meanwhile
  await rm(zip);
  return { files };
}

async function writePicture(t: DeliverTask, picture: Picture, format: Format, to: string): Promise<void> {
  await mkdir(dirname(to), { recursive: true });
  if (format.kind === 'exr') {
    await copyFile(picture.sources.exr!, to);
    await flushed(to);
    return;
  }
  const bits = format.kind === 'png16' || format.kind === 'tiff' ? 16 : 8;
  const { display } = t;
  const image = (await developed(picture.source, { bits, display, widthPx: format.widthPx }, t.assets)).withXmp(
    described(descriptionOf(picture, display)),
  );
  const encoded = {
    png: () => encodedPlain(image.png(PNG), 'png', display),
    png16: () => encodedDeep(image, 'png', display),
    tiff: () => encodedDeep(image, 'tiff', display),
    jpeg: () => encodedPlain(image.jpeg({ quality: format.quality, chromaSubsampling: '4:4:4' }), 'jpeg', display),
    webp: () => encodedPlain(image.webp({ quality: format.quality }), 'webp', display),
  }[format.kind];
  await writeFlushed(to, await encoded());
}
const nameOf = ({ camera, variant, version }: Pick<Picture, 'camera' | 'variant' | 'version'>): string =>
  `${camera} in ${variant}, v${String(version).padStart(3, '0')}`;
function descriptionOf({ camera, variant, version, profile, samples, grade }: Picture, display: Display): string {
  const graded = grade === null ? 'not graded' : `graded: ${grade}`;
  const colours = display === 'srgb' ? '' : `, ${DISPLAY_NAMES[display]}`;
  return `${nameOf({ camera, variant, version })}, ${profile}, ${samples} samples, ${graded}${colours}`;
}
async function flushed(path: string): Promise<void> {
  const file = await open(path, 'r+');
  try {
    await file.sync();
  } finally {
    await file.close();
  }
}

async function writeSheet(t: DeliverTask): Promise<void> {
  const count = Math.ceil(t.pictures.length / SHEET_COLUMNS);
  const at = (i: number) => (i < t.pictures.length ? i : null);
  await runSheet(
    {
      kind: 'sheet',
      format: 'pdf',
      background: 'white',
      page: A4_LANDSCAPE,
      widthPx: 0,
      content: {
        title: `${t.project}: ${t.name}`,
        columnHeads: [],
        rows: Array.from({ length: count }, (_, y) => ({
          head: null,
          pictures: Array.from({ length: SHEET_COLUMNS }, (_, x) => at(y * SHEET_COLUMNS + x)),
        })),
        pictures: t.pictures.map((p) => ({ aspect: p.widthPx / p.heightPx, label: p.label })),
      },
      sources: t.pictures.map((p) => p.source),
      assets: t.assets,
      file: join(t.aside, 'contact-sheet.pdf'),
    },
    () => undefined,
  );
}

/** Every file below a folder, by its name in it. */
async function listed(folder: string, ofPicture: ReadonlyMap<string, string>): Promise<DeliveredFile[]> {
  const entries = await readdir(folder, { recursive: true, withFileTypes: true });
  const paths = entries.filter((e) => e.isFile()).map((e) => join(e.parentPath, e.name));
  const names = paths.map((path) => relative(folder, path).split(sep).join('/')).sort();
  const out: DeliveredFile[] = [];
  for (const name of names) out.push(await aboutFile(folder, name, ofPicture.get(name) ?? null));
  return out;
}
async function aboutFile(folder: string, name: string, renderId: string | null): Promise<DeliveredFile> {
  const path = join(folder, name);
  return { path: name, bytes: (await stat(path)).size, sha256: await hashOfFile(path), renderId };
}

function manifestOf(t: DeliverTask, files: readonly DeliveredFile[]) {
  return {
    format: 'variscen.delivery',
    version: 1,
    project: t.project,
    delivery: t.number,
    name: t.name,
    colours: DISPLAY_NAMES[t.display],
    writtenAt: t.at,
    pictures: t.pictures.map((p) => ({
      camera: p.camera,
      variant: p.variant,
      ...(p.frame !== null && { frame: p.frame }),
      version: p.version,
      options: p.options,
      grade: p.grade,
      profile: p.profile,
      widthPx: p.widthPx,
      heightPx: p.heightPx,
      samples: p.samples,
      renderedAt: p.renderedAt,
      verdict: p.verdict,
      files: files.filter((f) => f.renderId === p.renderId).map(({ path, bytes, sha256 }) => ({ path, bytes, sha256 })),
    })),
    others: files.filter((f) => f.renderId === null).map(({ path, bytes, sha256 }) => ({ path, bytes, sha256 })),
  };
}
function lineOf(t: DeliverTask, { path, bytes, sha256, renderId }: DeliveredFile) {
  const p = t.pictures.find((x) => x.renderId === renderId);
  const version = p ? `v${String(p.version).padStart(3, '0')}` : '';
  return {
    file: path,
    camera: p?.camera ?? '',
    variant: p?.variant ?? '',
    frame: p?.frame ?? '',
    version,
    bytes,
    sha256,
  };
}

/** Pictures are packed as well as they can be: they lie in it as they are. */
async function zipped(folder: string, files: readonly DeliveredFile[], to: string): Promise<void> {
  const zip = new ZipFile();
  const written = pipeline(zip.outputStream, createWriteStream(to, { flags: 'wx' }));
  for (const { path, bytes } of files)
    zip.addReadStreamLazy(path, { compress: false, size: bytes }, (take) =>
      take(null, createReadStream(join(folder, path))),
    );
  zip.end();
  await written;
  await flushed(to);
}
