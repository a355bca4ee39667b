// Contact sheets, and tables of what pictures took.
import { AppError, type SheetAsked } from '@variscen/contract';
import { type SheetContent, type SheetPage, faultOfLabel, labelLines } from '@variscen/core/sheet';
import { stringify } from 'csv-stringify/sync';
import { runTask } from '../work/run.ts';
import type { SheetTask } from '../work/tasks.ts';
import type { Context } from './context.ts';
import { type Picked, labelValuesOf, pickedOf, versionText } from './picked.ts';
import type { PictureService } from './pictures.ts';
import type { ProjectService } from './projects.ts';
import type { ReviewService } from './reviews.ts';

/** Points of 1/72 inch, the short side first. */
const PAPERS = { a4: [595.28, 841.89], a3: [841.89, 1190.55], letter: [612, 792] } as const;
/** Of a PNG, whatever its pixels: type has the size that it has on paper. */
const PNG_WIDTH_PT = 1000;

export class SheetService {
  constructor(
    private readonly c: Context,
    private readonly projects: ProjectService,
    private readonly reviews: ReviewService,
    private readonly pictures: PictureService,
  ) {}

  /** @returns its bytes */
  async write(projectId: string, asked: SheetAsked, file: string, signal: AbortSignal): Promise<number> {
    const fault = faultOfLabel(asked.label);
    if (fault) throw new AppError('INVALID', fault);
    const project = await this.projects.get(projectId);
    const picked = await pickedOf(this.c, project, asked.renderIds, await this.reviews.list(projectId));
    const sources: SheetTask['sources'][number][] = [];
    for (const { row } of picked) sources.push(await this.pictures.toDevelop(row.id));
    const task: SheetTask = {
      kind: 'sheet',
      format: asked.format,
      background: asked.background,
      page: pageOf(asked),
      widthPx: asked.widthPx,
      content: {
        title: asked.title.trim(),
        ...(asked.arrangement === 'grid' ? inGrid(picked) : inRows(picked, asked.columns)),
        pictures: picked.map((x) => ({
          aspect: x.row.widthPx / x.row.heightPx,
          label: labelLines(asked.label, labelValuesOf(project, x)),
        })),
      },
      sources,
      assets: this.c.assetsFolder,
      file,
    };
    return (await runTask(task, undefined, signal)).bytes;
  }

  /** A line a picture (RFC 4180), with what it took. */
  async table(projectId: string, renderIds: readonly string[]): Promise<string> {
    const project = await this.projects.get(projectId);
    const picked = await pickedOf(this.c, project, renderIds, await this.reviews.list(projectId));
    const lines = picked.map(({ row, camera, variant, review }) => ({
      camera: inCell(camera.name),
      variant: inCell(variant.name),
      frame: row.frame ?? '',
      version: versionText(row.version),
      profile: inCell(row.profile.name),
      width_px: row.widthPx,
      height_px: row.heightPx,
      samples: row.result.samples,
      trace_seconds: row.result.seconds.toFixed(1),
      lightings_of_trace: row.result.lightings ?? 1,
      peak_memory_bytes: row.result.peakBytes,
      file_bytes: row.files.reduce((n, f) => n + f.bytes, 0),
      rendered_at: row.createdAt.toISOString(),
      verdict: review?.verdict ?? '',
      note: inCell(review?.note ?? ''),
      file: inCell(row.files.find((f) => f.kind !== 'thumbnail')?.path ?? ''),
    }));
    return stringify(lines, { header: true, bom: true });
  }
}

/** A name that begins like a formula is a name all the same, for programs that would work it out. */
const inCell = (text: string): string => (/^[=+\-@\t\r]/.test(text) ? `'${text}` : text);

function pageOf({ format, paper, orientation }: SheetAsked): SheetPage {
  if (format === 'png') return { widthPt: PNG_WIDTH_PT, heightPt: null };
  const [short, long] = PAPERS[paper];
  return orientation === 'portrait' ? { widthPt: short, heightPt: long } : { widthPt: long, heightPt: short };
}

/** Cameras down, variants across, in the order in which they come first; of a cell with several pictures the first. */
function inGrid(picked: readonly Picked[]): Pick<SheetContent, 'columnHeads' | 'rows'> {
  const rows = [...new Map(picked.map((p) => [p.camera.id, p.camera])).values()];
  const columns = [...new Map(picked.map((p) => [p.variant.id, p.variant])).values()];
  const place = (camera: string, variant: string) => {
    const at = picked.findIndex((p) => p.camera.id === camera && p.variant.id === variant);
    return at < 0 ? null : at;
  };
  return {
    columnHeads: columns.map((v) => v.name),
    rows: rows.map((c) => ({ head: c.name, pictures: columns.map((v) => place(c.id, v.id)) })),
  };
}
function inRows(picked: readonly Picked[], columns: number): Pick<SheetContent, 'columnHeads' | 'rows'> {
  const count = Math.ceil(picked.length / columns);
  return {
    columnHeads: [],
    rows: Array.from({ length: count }, (_, y) => ({
      head: null,
      // the last row is as wide as the others
      pictures: Array.from({ length: columns }, (_, x) => (y * columns + x < picked.length ? y * columns + x : null)),
    })),
  };
}
