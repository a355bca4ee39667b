// A page that shows a delivery in any browser, from its folder, with no server: every picture by camera and variant,
// two of them held against each other, notes that are saved as a file and come back in.
import { mkdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { WEIGHTS, latinFont } from '../files/typeface.ts';
import { developed } from '../files/developed.ts';
import { writeFlushed } from '../files/writeFlushed.ts';
import type { DeliverTask } from './tasks.ts';

const SHOWN_PX = 1920;
const SMALL_PX = 320;
const QUALITY = 88;
const FOLDER = 'page';

/** What the page is given. */
interface PageData {
  readonly project: string;
  readonly delivery: number;
  readonly name: string;
  readonly writtenAt: string;
  readonly pictures: readonly {
    readonly renderId: string;
    readonly camera: string;
    readonly variant: string;
    readonly frame: number | null;
    readonly version: number;
    readonly options: readonly { readonly facet: string; readonly name: string }[];
    readonly widthPx: number;
    readonly heightPx: number;
    readonly shown: string;
    readonly small: string;
  }[];
}

export async function writePage(t: DeliverTask): Promise<void> {
  await mkdir(join(t.aside, FOLDER), { recursive: true });
  const pictures: PageData['pictures'][number][] = [];
  for (const [i, p] of t.pictures.entries()) {
    const name = String(i + 1).padStart(4, '0');
    const [shown, small] = [`${FOLDER}/${name}.jpg`, `${FOLDER}/${name}-small.jpg`];
    for (const [file, widthPx] of [
      [shown, SHOWN_PX],
      [small, SMALL_PX],
    ] as const) {
      const image = await developed(p.source, { bits: 8, widthPx }, t.assets);
      await writeFlushed(
        join(t.aside, file),
        await image.jpeg({ quality: QUALITY, chromaSubsampling: '4:4:4' }).toBuffer(),
      );
    }
    const { renderId, camera, variant, frame, version, options, widthPx, heightPx } = p;
    pictures.push({ renderId, camera, variant, frame, version, options, widthPx, heightPx, shown, small });
  }
  const data: PageData = { project: t.project, delivery: t.number, name: t.name, writtenAt: t.at, pictures };
  const shell = await readFile(new URL('../../pages/delivery.html', import.meta.url), 'utf8');
  // as JSON it may hold “</script>”, which would end the script
  const json = JSON.stringify(data).replaceAll('<', '\\u003c');
  let page = shell.replace(`'DELIVERY'`, () => json);
  for (const weight of WEIGHTS) {
    const font = await readFile(latinFont(weight));
    page = page.replace(`FONT${weight}`, () => font.toString('base64'));
  }
  await writeFlushed(join(t.aside, 'index.html'), page);
}
