// Paints a picture into a canvas as a view shows it: what is ready at once, coarser tiles where finer ones are on their
// way.
import { TILE_PX, type TileAt, levelFor, levelsOf } from '@variscen/core/image';
import { type Box, type View, placed } from '../model/review/view.ts';
import type { OpenedLayer } from './messages.ts';
import type { PictureService } from './pictureService.ts';

/** What the tiles show, and how one of them is made. */
export interface Painted {
  /** Two of one key show the same. */
  readonly key: string;
  readonly of: OpenedLayer;
  make(at: TileAt, signal: AbortSignal): Promise<ImageBitmap>;
}
/** Between two drawings while tiles come in: where the processor draws, it makes tiles meanwhile. */
const BETWEEN_MS = 120;
/** A pixel so large on the screen is shown as a square. */
const SQUARES_FROM = 2;

export class Painter {
  private painted: Painted | undefined;
  private view: View | undefined;
  private box: Box = { widthPx: 1, heightPx: 1 };
  private poster: { readonly key: string; readonly image: HTMLImageElement } | undefined;
  private frame = 0;
  private later: ReturnType<typeof setTimeout> | undefined;
  private readonly asked = new Map<string, AbortController>();
  private isClosed = false;

  constructor(
    private readonly canvas: HTMLCanvasElement,
    private readonly service: PictureService,
    private readonly onFault: (e: Error) => void,
  ) {}

  show(painted: Painted | undefined, view: View, box: Box): void {
    if (this.painted?.key !== painted?.key) this.forgetAsked(() => false);
    this.painted = painted;
    this.view = view;
    if (box.widthPx !== this.box.widthPx || box.heightPx !== this.box.heightPx) this.resize(box);
    this.soon();
  }
  /** A small picture of the whole, until its tiles are there. */
  under(key: string, url: string | undefined): void {
    if (this.poster?.key === key) return;
    this.poster = undefined;
    if (url === undefined) return;
    const image = new Image();
    image.onload = () => this.soon();
    image.src = url;
    this.poster = { key, image };
  }
  close(): void {
    this.isClosed = true;
    clearTimeout(this.later);
    cancelAnimationFrame(this.frame);
    this.forgetAsked(() => false);
  }

  private resize(box: Box): void {
    this.box = box;
    this.canvas.width = Math.max(1, Math.round(box.widthPx * devicePixelRatio));
    this.canvas.height = Math.max(1, Math.round(box.heightPx * devicePixelRatio));
  }
  /** A tile did. While others are on their way all of them are not drawn for each. */
  private cameIn(): void {
    if (!this.asked.size) this.soon();
    else this.later ??= setTimeout(() => this.soon(), BETWEEN_MS);
  }
  private soon(): void {
    clearTimeout(this.later);
    this.later = undefined;
    if (this.isClosed) return;
    cancelAnimationFrame(this.frame);
    this.frame = requestAnimationFrame(() => this.paint());
  }

  private paint(): void {
    const { canvas, painted, view } = this;
    const context = canvas.getContext('2d');
    if (!context) return;
    context.setTransform(1, 0, 0, 1, 0, 0);
    context.clearRect(0, 0, canvas.width, canvas.height);
    if (!painted || !view) return;
    const { of } = painted;
    const where = placed(of, this.box, view);
    const scale = where.scale * devicePixelRatio;
    const [left, top] = [where.left * devicePixelRatio, where.top * devicePixelRatio];
    const levels = levelsOf(of);
    const finest = levelFor(levels, of.widthPx * scale);
    context.imageSmoothingEnabled = scale < SQUARES_FROM;
    context.imageSmoothingQuality = 'high';
    const poster = this.poster?.image;
    if (poster?.complete && poster.naturalWidth)
      context.drawImage(poster, left, top, of.widthPx * scale, of.heightPx * scale);
    const wanted = new Set<string>();
    let isWhole = true;
    for (let level = levels.length - 1; level >= finest; level--) {
      const size = levels[level]!;
      // a pixel of a level stands for squares of pixels, the last ones for what there is
      const px = (of.widthPx * scale) / size.widthPx;
      const py = (of.heightPx * scale) / size.heightPx;
      for (const { x, y } of tilesIn(levels[level]!, left, top, px, py, canvas)) {
        const key = `${painted.key} ${level}.${x}.${y}`;
        const bitmap = this.service.bitmap(key);
        if (bitmap) {
          const [x0, y0] = [Math.round(left + x * TILE_PX * px), Math.round(top + y * TILE_PX * py)];
          const x1 = Math.round(left + (x * TILE_PX + bitmap.width) * px);
          const y1 = Math.round(top + (y * TILE_PX + bitmap.height) * py);
          context.drawImage(bitmap, x0, y0, x1 - x0, y1 - y0);
        } else if (level === finest || level === levels.length - 1) {
          wanted.add(key);
          this.request(painted, key, { level, x, y });
          if (level === finest) isWhole = false;
        }
      }
    }
    this.forgetAsked((key) => wanted.has(key));
    canvas.dataset['whole'] = isWhole ? 'yes' : 'no';
  }

  private request(painted: Painted, key: string, at: TileAt): void {
    if (this.asked.has(key)) return;
    const stop = new AbortController();
    this.asked.set(key, stop);
    painted.make(at, stop.signal).then(
      (bitmap) => {
        this.service.keep(key, bitmap);
        this.asked.delete(key);
        this.cameIn();
      },
      (e: unknown) => {
        this.asked.delete(key);
        if (!stop.signal.aborted) this.onFault(e instanceof Error ? e : new Error(String(e)));
      },
    );
  }
  private forgetAsked(isWanted: (key: string) => boolean): void {
    for (const [key, stop] of this.asked)
      if (!isWanted(key)) {
        stop.abort();
        this.asked.delete(key);
      }
  }
}

/** Tiles of a level that are in sight. */
function* tilesIn(
  { columns, rows }: { readonly columns: number; readonly rows: number },
  left: number,
  top: number,
  px: number,
  py: number,
  { width, height }: { readonly width: number; readonly height: number },
): Iterable<{ readonly x: number; readonly y: number }> {
  const first = (edge: number, p: number) => Math.max(0, Math.floor(-edge / (TILE_PX * p)));
  const last = (edge: number, p: number, size: number, n: number) =>
    Math.min(n - 1, Math.floor((size - edge) / (TILE_PX * p)));
  for (let y = first(top, py); y <= last(top, py, height, rows); y++)
    for (let x = first(left, px); x <= last(left, px, width, columns); x++) yield { x, y };
}
