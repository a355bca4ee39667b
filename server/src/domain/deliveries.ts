// Deliveries: pictures that were picked, written into a folder or a zip by a task of their own, with a manifest. What
// is out of date or rejected is refused until somebody accepts it.
import { randomUUID } from 'node:crypto';

import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import {
  AppError,
  type DeliveredPicture,
  type Delivery,
  type DeliveryAsked,
  type DeliveryChanges,
  type DeliveryFault,
  type DeliveryPlan,
  type Project,
} from '@variscen/contract';
import { NO_GRADE } from '@variscen/core/image';
import { faultOfPath, faultOfTemplate, nameValuesOf, renderName, slug } from '@variscen/core/plan';
import { labelLines } from '@variscen/core/sheet';
import type { DataSource } from 'typeorm';
import { type DeliveryRow, Deliveries } from '../db/entities/index.ts';
import type { OutputFolder } from '../files/outputFolder.ts';
import { runTask } from '../work/run.ts';
import type { DeliverTask } from '../work/tasks.ts';
import type { BoardService } from './board.ts';
import type { Context } from './context.ts';
import { type Picked, labelValuesOf, pickedOf, versionText } from './picked.ts';
import type { PictureService } from './pictures.ts';
import type { ProjectService } from './projects.ts';
import type { ReviewService } from './reviews.ts';

/** Below the output folder. */
const FOLDER = 'deliveries';
const UNFINISHED = '.unfinished';
const EXTENSIONS = { exr: '.exr', png: '.png', png16: '.png', tiff: '.tif', jpeg: '.jpg', webp: '.webp' } as const;
const LABEL = '{camera}\n{variant} · {version}';
const STOPPED = 'The server was stopped while it was written. Make it again.';

interface Prepared extends DeliveryPlan {
  readonly project: Project;
  readonly picked: readonly Picked[];
  readonly number: number;
  /** Path of each picture, without extension, in the order of what is picked. */
  readonly paths: readonly string[];
}

export class DeliveryService {
  private readonly fractions = new Map<string, number>();
  private readonly stops = new Map<string, AbortController>();

  constructor(
    private readonly c: Context,
    private readonly projects: ProjectService,
    private readonly reviews: ReviewService,
    private readonly boards: BoardService,
    private readonly pictures: PictureService,
  ) {}

  async list(projectId: string): Promise<Delivery[]> {
    await this.projects.row(projectId);
    const rows = await this.c.db.getRepository(Deliveries).find({ where: { projectId }, order: { number: 'DESC' } });
    return rows.map((row, i) =>
      this.asDelivery(
        row,
        rows.slice(i + 1).find((r) => r.state === 'done'),
      ),
    );
  }

  async plan(projectId: string, asked: DeliveryAsked): Promise<DeliveryPlan> {
    const { path, files, faults } = await this.prepare(projectId, asked);
    return { path, files, faults };
  }

  /** Answers when it is begun. @throws AppError PLAN_HAS_ERRORS */
  async deliver(projectId: string, asked: DeliveryAsked): Promise<Delivery> {
    const prepared = await this.prepare(projectId, asked);
    const refused = prepared.faults.find((f) => f.kind === 'other' || !asked.accepts[f.kind]);
    if (refused) throw new AppError('PLAN_HAS_ERRORS', refused.message, 'Accept it, or take the picture out.');
    await this.c.disk.need(mostBytes(prepared.picked, asked));
    const task = await this.taskOf(prepared, asked);
    const row: DeliveryRow = {
      id: randomUUID(),
      projectId,
      number: prepared.number,
      asked,
      state: 'writing',
      error: null,
      path: prepared.path,
      pictures: prepared.picked.map(deliveredPicture),
      files: [],
      createdAt: this.c.now(),
    };
    await this.c.db.getRepository(Deliveries).insert(row as never);
    void this.write(row, task);
    return this.asDelivery(row, undefined);
  }

  /** Ends one that is being written; nothing of it is left. @throws AppError WRONG_STATE of another */
  async stop(projectId: string, deliveryId: string): Promise<void> {
    const isOfProject = await this.c.db.getRepository(Deliveries).existsBy({ id: deliveryId, projectId });
    const stop = isOfProject ? this.stops.get(deliveryId) : undefined;
    if (!stop) throw new AppError('WRONG_STATE', 'This delivery is not being written any more.');
    stop.abort();
  }

  /** Absolute path of a zip. @throws AppError NOT_FOUND */
  async zip(projectId: string, deliveryId: string): Promise<{ readonly path: string; readonly name: string }> {
    const row = await this.c.db.getRepository(Deliveries).findOneBy({ id: deliveryId, projectId });
    if (row?.asked.target !== 'zip' || row.state !== 'done')
      throw new AppError('NOT_FOUND', 'There is no such zip.', 'Make the delivery again, as a zip.');
    return { path: await this.c.output.toRead(row.path), name: row.path.split('/').at(-1)! };
  }

  private async write(row: DeliveryRow, task: Omit<DeliverTask, 'aside'>): Promise<void> {
    const table = this.c.db.getRepository(Deliveries);
    const aside = asideOf(this.c.output, row.id);
    const stop = new AbortController();
    this.stops.set(row.id, stop);
    try {
      const done = await runTask({ ...task, aside }, (f) => this.fractions.set(row.id, f), stop.signal);
      await table.update({ id: row.id }, { state: 'done', files: [...done.files] } as never);
    } catch (e) {
      const error = stop.signal.aborted ? 'It was stopped.' : faultWords(e);
      await table.update({ id: row.id }, { state: 'failed', error }).catch(() => undefined); // the server is closed
    } finally {
      this.fractions.delete(row.id);
      this.stops.delete(row.id);
      await rm(aside, { recursive: true, force: true }).catch(() => undefined);
    }
  }

  private async prepare(projectId: string, asked: DeliveryAsked): Promise<Prepared> {
    const template = faultOfTemplate(asked.nameTemplate);
    if (template) throw new AppError('INVALID', template);
    const project = await this.projects.get(projectId);
    const picked = await pickedOf(this.c, project, asked.renderIds, await this.reviews.list(projectId));
    const paths = picked.map((p) => renderName(asked.nameTemplate, namesOf(project, p)));
    const files = picked.flatMap((_, i) => asked.formats.map((f) => fileOf(paths[i]!, asked, f)));
    const number = await this.nextNumber(projectId);
    const path = this.freePath(project, number, asked);
    const faults = [
      ...(await this.faultsOfState(projectId, picked)),
      ...faultsOfFiles(asked, picked, files),
      ...files.flatMap((file): DeliveryFault[] => {
        const message = faultOfPath(file);
        return message ? [{ kind: 'other', renderId: null, message }] : [];
      }),
    ];
    return { project, picked, number, paths, path, files, faults };
  }
  private async nextNumber(projectId: string): Promise<number> {
    const [last] = await this.c.db.query<{ number: number }[]>(
      'SELECT max(number) AS number FROM delivery WHERE project_id = $1',
      [projectId],
    );
    return (last?.number ?? 0) + 1;
  }
  /** Where nothing lies yet. */
  private freePath(project: Project, number: number, { name, target }: DeliveryAsked): string {
    const base = `${FOLDER}/${slug(project.name)}/${String(number).padStart(3, '0')}-${slug(name)}`;
    const extension = target === 'zip' ? '.zip' : '';
    for (let n = 1; ; n++) {
      const path = `${base}${n === 1 ? '' : `-${n}`}${extension}`;
      if (!this.c.output.exists(path)) return path;
    }
  }

  private async faultsOfState(projectId: string, picked: readonly Picked[]): Promise<DeliveryFault[]> {
    const cells = new Map(
      (await this.boards.board(projectId)).cells.map((x) => [`${x.cameraId} ${x.variantId}`, x] as const),
    );
    return picked.flatMap(({ row, review, ...p }): DeliveryFault[] => {
      const name = `${p.camera.name} in ${p.variant.name}, ${versionText(row.version)}`;
      const out: DeliveryFault[] = [];
      if (review?.verdict === 'rejected')
        out.push({ kind: 'rejected', renderId: row.id, message: `${name} is rejected.` });
      const cell = cells.get(`${row.cameraId} ${row.variantId}`);
      const latest = cell?.render;
      const outdated = (why: string) => out.push({ kind: 'outdated', renderId: row.id, message: `${name} ${why}` });
      if (row.frame === null && latest && latest.version > row.version)
        outdated(`is older than ${versionText(latest.version)}.`);
      else if (cell && cell.status !== 'current' && cell.status !== 'rendering' && cell.status !== 'waiting')
        outdated('is out of date: its look has changed since.');
      return out;
    });
  }

  private async taskOf(
    { project, picked, paths, path, number }: Prepared,
    asked: DeliveryAsked,
  ): Promise<Omit<DeliverTask, 'aside'>> {
    const pictures: DeliverTask['pictures'][number][] = [];
    for (const [i, x] of picked.entries()) {
      const source = await this.pictures.toDevelop(x.row.id);
      const graded = source.kind === 'exr' && !asked.isGraded ? { ...source, grade: NO_GRADE } : source;
      const grade = project.options
        .filter((o) => o.facet === 'grade' && x.variant.optionIds.includes(o.id))
        .map((o) => o.name);
      pictures.push({
        ...deliveredPicture(x),
        source: graded,
        sources: { exr: source.kind === 'exr' ? source.path : null },
        files: asked.formats.map((format) => ({ format, path: fileOf(paths[i]!, asked, format) })),
        options: project.options
          .filter((o) => x.variant.optionIds.includes(o.id))
          .map((o) => ({ facet: o.facet, name: o.name })),
        grade: asked.isGraded ? grade.join(', ') || 'base' : null,
        label: labelLines(LABEL, labelValuesOf(project, x)),
        widthPx: x.row.widthPx,
        heightPx: x.row.heightPx,
        samples: x.row.result.samples,
        profile: x.row.profile.name,
        renderedAt: x.row.createdAt.toISOString(),
        verdict: x.review?.verdict ?? null,
      });
    }
    return {
      kind: 'deliver',
      project: project.name,
      number,
      name: asked.name,
      pictures,
      target: asked.target,
      display: asked.display,
      hasSheet: asked.hasSheet,
      hasPage: asked.hasPage,
      at: this.c.now().toISOString(),
      assets: this.c.assetsFolder,
      to: this.c.output.resolve(path),
    };
  }

  private asDelivery(row: DeliveryRow, before: DeliveryRow | undefined): Delivery {
    const bytes = row.files.reduce((n, f) => n + f.bytes, 0);
    const { id, number, state, error, path } = row;
    // earlier ones do not say it
    const asked = { ...row.asked, display: row.asked.display ?? 'srgb' };
    const fraction = state === 'writing' ? (this.fractions.get(id) ?? 0) : 1;
    const changes = before && state === 'done' ? changesSince(before, row) : null;
    const about = { files: row.files.length, bytes, createdAt: row.createdAt.toISOString(), changes };
    return { id, number, asked, state, fraction, error, path, ...about };
  }
}

const faultWords = (e: unknown): string =>
  e instanceof AppError ? `${e.message} ${e.remedy}`.trim() : 'It could not be written. Make it again.';

/** What a server that was stopped left half-written is said to have failed. */
export async function endBrokenDeliveries(db: DataSource, output: OutputFolder): Promise<void> {
  const table = db.getRepository(Deliveries);
  for (const { id } of await table.findBy({ state: 'writing' })) {
    await rm(asideOf(output, id), { recursive: true, force: true });
    await table.update({ id }, { state: 'failed', error: STOPPED });
  }
}
const asideOf = (output: OutputFolder, id: string): string => join(output.root, UNFINISHED, `delivery-${id}`);

const deliveredPicture = ({ row, camera, variant }: Picked): DeliveredPicture => ({
  renderId: row.id,
  cameraId: row.cameraId,
  variantId: row.variantId,
  frame: row.frame,
  camera: camera.name,
  variant: variant.name,
  version: row.version,
});
const namesOf = (project: Project, { row, camera, variant }: Picked) => ({
  ...nameValuesOf({
    project: project.name,
    camera,
    variant: variant.name,
    options: project.options.filter((o) => variant.optionIds.includes(o.id)),
    profile: row.profile,
    version: row.version,
    frame: row.frame,
    at: row.createdAt.toISOString(),
  }),
  widthPx: row.widthPx,
  heightPx: row.heightPx,
});

/** As if nothing could be packed; a zip is written beside what goes into it. */
function mostBytes(picked: readonly Picked[], { formats, target }: DeliveryAsked): number {
  const ofPicture = ({ row }: Picked) =>
    formats.reduce((n, { kind, widthPx }) => {
      if (kind === 'exr') return n + (row.files.find((f) => f.kind === 'exr')?.bytes ?? 0);
      const share = Math.min(1, (widthPx ?? row.widthPx) / row.widthPx) ** 2;
      const bytesAPixel = kind === 'png16' || kind === 'tiff' ? 6 : 3;
      return n + row.widthPx * row.heightPx * share * bytesAPixel;
    }, 0);
  return picked.reduce((n, p) => n + ofPicture(p), 0) * (target === 'zip' ? 2 : 1);
}

/** Formats that would lie under one name are told apart by their size. */
function fileOf(path: string, { formats }: DeliveryAsked, format: DeliveryAsked['formats'][number]): string {
  const extension = EXTENSIONS[format.kind];
  const alike = formats.filter((f) => EXTENSIONS[f.kind] === extension);
  if (alike.length === 1) return path + extension;
  const size = format.widthPx === null ? 'full' : `${format.widthPx}px`;
  const bits = format.kind === 'png16' ? '-16bit' : '';
  return `${path}_${size}${bits}${extension}`;
}

function faultsOfFiles(asked: DeliveryAsked, picked: readonly Picked[], files: readonly string[]): DeliveryFault[] {
  const out: DeliveryFault[] = [];
  const seen = new Set<string>();
  for (const file of files) {
    const key = file.toLowerCase();
    if (seen.has(key))
      out.push({
        kind: 'other',
        renderId: null,
        message: `Two pictures would be “${file}”. Use more tokens in the template, for example {camera}, {variant} or {version}.`,
      });
    seen.add(key);
  }
  for (const { row, camera, variant } of picked)
    if (row.cleaningId !== null)
      out.push({
        kind: 'other',
        renderId: row.id,
        message: `The files of ${camera.name} in ${variant.name}, ${versionText(row.version)} were cleaned up. Undo that, or take it out.`,
      });
  if (asked.formats.some((f) => f.kind === 'exr'))
    for (const { row, camera, variant } of picked)
      if (!row.files.some((f) => f.kind === 'exr'))
        out.push({
          kind: 'other',
          renderId: row.id,
          message: `${camera.name} in ${variant.name}, ${versionText(row.version)} was not written as OpenEXR. Take it out, or deliver another format.`,
        });
  return out;
}

/** By camera, variant and frame. */
export function changesSince(
  before: Pick<DeliveryRow, 'number' | 'pictures'>,
  now: Pick<DeliveryRow, 'pictures'>,
): DeliveryChanges {
  const keyOf = (p: DeliveredPicture) => `${p.cameraId} ${p.variantId} ${p.frame ?? ''}`;
  const nameOf = (p: DeliveredPicture) => `${p.camera} in ${p.variant}${p.frame === null ? '' : `, frame ${p.frame}`}`;
  const was = new Map(before.pictures.map((p) => [keyOf(p), p]));
  const is = new Map(now.pictures.map((p) => [keyOf(p), p]));
  const changed = now.pictures.flatMap((p) => {
    const old = was.get(keyOf(p));
    return old && old.renderId !== p.renderId ? [{ picture: nameOf(p), was: old.version, is: p.version }] : [];
  });
  return {
    number: before.number,
    added: now.pictures.filter((p) => !was.has(keyOf(p))).map(nameOf),
    gone: before.pictures.filter((p) => !is.has(keyOf(p))).map(nameOf),
    changed,
    same: now.pictures.filter((p) => was.get(keyOf(p))?.renderId === p.renderId).length,
  };
}
