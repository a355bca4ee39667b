// Writes a contact sheet, as a PDF of pages or as one PNG.
import { createWriteStream } from 'node:fs';
import { stat, writeFile } from 'node:fs/promises';
import { pipeline } from 'node:stream/promises';
import { type LaidOutPage, TEXT_SIZES_PT, type TextRole, layOut } from '@variscen/core/sheet';
import PDFDocument from 'pdfkit';
import sharp from 'sharp';
import { developed } from '../files/developed.ts';
import { type Weight, outlineOf, runsOf } from '../files/typeface.ts';
import type { SheetTask } from './tasks.ts';

const WEIGHTS: Readonly<Record<TextRole, Weight>> = { title: 500, head: 500, label: 400, small: 400 };
/** Paper, words, words that say less. */
const COLOURS = {
  white: { paper: '#ffffff', ink: '#1b1b1b', dim: '#5c5c5c' },
  grey: { paper: '#767676', ink: '#ffffff', dim: '#f0f0f0' },
  black: { paper: '#000000', ink: '#ededed', dim: '#a8a8a8' },
} as const;
/** Of pictures on paper. */
const PDF_DOTS_PER_INCH = 220;
const JPEG_QUALITY = 90;
const POINTS_PER_INCH = 72;
/** Wider than a picture may be in a PNG of any program. */
const MOST_SIDE_PX = 32_000;

const measure = (text: string, role: TextRole): number => runsOf(text, WEIGHTS[role]).width * TEXT_SIZES_PT[role];

export async function runSheet(
  t: SheetTask,
  progress: (fraction: number) => void,
): Promise<{ readonly bytes: number }> {
  const pages = layOut(t.content, t.page, measure);
  const total = pages.reduce((n, p) => n + p.pictures.length, 0);
  let done = 0;
  const counted = () => progress(++done / Math.max(1, total));
  await (t.format === 'pdf' ? writePdf(t, pages, counted) : writePng(t, pages[0]!, counted));
  return { bytes: (await stat(t.file)).size };
}

async function writePdf(t: SheetTask, pages: readonly LaidOutPage[], counted: () => void): Promise<void> {
  const { paper, ink, dim } = COLOURS[t.background];
  const pdf = new PDFDocument({
    autoFirstPage: false,
    margin: 0,
    info: { Title: t.content.title, Producer: 'Variscen' },
  });
  const written = pipeline(pdf, createWriteStream(t.file));
  const known = new Set<string>();
  for (const page of pages) {
    pdf.addPage({ size: [page.widthPt, page.heightPt], margin: 0 });
    pdf.rect(0, 0, page.widthPt, page.heightPt).fill(paper);
    for (const placed of page.pictures) {
      const widthPx = Math.ceil((placed.widthPt / POINTS_PER_INCH) * PDF_DOTS_PER_INCH);
      const image = await developed(t.sources[placed.picture]!, { bits: 8, widthPx }, t.assets);
      const bytes = await image.jpeg({ quality: JPEG_QUALITY, chromaSubsampling: '4:4:4' }).toBuffer();
      pdf.image(bytes, placed.x, placed.y, { width: placed.widthPt, height: placed.heightPt });
      counted();
    }
    for (const { text, role, x, y } of page.texts) {
      const size = TEXT_SIZES_PT[role];
      for (const run of runsOf(text, WEIGHTS[role]).runs) {
        if (!known.has(run.file.name)) pdf.registerFont(run.file.name, run.file.path);
        known.add(run.file.name);
        pdf
          .font(run.file.name)
          .fontSize(size)
          .fillColor(role === 'small' ? dim : ink);
        pdf.text(run.text, x + run.x * size, y, { lineBreak: false, baseline: 'alphabetic' });
      }
    }
  }
  pdf.end();
  await written;
}

async function writePng(t: SheetTask, page: LaidOutPage, counted: () => void): Promise<void> {
  const { paper, ink, dim } = COLOURS[t.background];
  const scale = Math.min(t.widthPx / page.widthPt, MOST_SIDE_PX / page.heightPt);
  const px = (pt: number) => Math.round(pt * scale);
  const [width, height] = [px(page.widthPt), px(page.heightPt)];
  const canvas = Buffer.alloc(width * height * 3);
  const [r, g, b] = [1, 3, 5].map((i) => parseInt(paper.slice(i, i + 2), 16)) as [number, number, number];
  for (let i = 0; i < canvas.length; i += 3) {
    canvas[i] = r;
    canvas[i + 1] = g;
    canvas[i + 2] = b;
  }
  for (const placed of page.pictures) {
    const box = { left: px(placed.x), top: px(placed.y), width: px(placed.widthPt), height: px(placed.heightPt) };
    const size = { widthPx: Math.max(1, box.width), heightPx: Math.max(1, box.height) };
    const raw = await (await developed(t.sources[placed.picture]!, { bits: 8, ...size }, t.assets)).raw().toBuffer();
    put(canvas, width, height, raw, box);
    counted();
  }
  const outline = (role: 'small' | 'rest') =>
    page.texts
      .filter((text) => (text.role === 'small') === (role === 'small'))
      .map((text) =>
        outlineOf(text.text, WEIGHTS[text.role], TEXT_SIZES_PT[text.role] * scale, text.x * scale, text.y * scale),
      )
      .join('');
  const paths = `<path fill="${ink}" d="${outline('rest')}"/><path fill="${dim}" d="${outline('small')}"/>`;
  const words = `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}">${paths}</svg>`;
  const png = await sharp(canvas, { raw: { width, height, channels: 3 }, limitInputPixels: false })
    .composite([{ input: Buffer.from(words), limitInputPixels: false }])
    .removeAlpha()
    .withIccProfile('srgb')
    .png()
    .toBuffer();
  await writeFile(t.file, png);
}

/** Copies a picture's lines into the sheet's. */
function put(
  canvas: Buffer,
  width: number,
  height: number,
  raw: Buffer,
  box: { left: number; top: number; width: number; height: number },
) {
  const across = Math.min(box.width, width - box.left);
  for (let row = 0; row < Math.min(box.height, height - box.top); row++)
    raw.copy(canvas, ((box.top + row) * width + box.left) * 3, row * box.width * 3, (row * box.width + across) * 3);
}
