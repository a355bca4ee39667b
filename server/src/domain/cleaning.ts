// Cleaning up: files of older pictures are put aside, on the disk that they lie on, and are gone after a week. The
// small picture and all that is known of it stay. What is approved never goes, what was delivered on wish, nor a file
// that a picture that stays needs.
import { randomUUID } from 'node:crypto';
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { AppError, type Cleaning, type CleaningPlan, type CleaningRules } from '@variscen/contract';
import { In } from 'typeorm';
import { type CleaningRow, type RenderRow, Cleanings, Renders } from '../db/entities/index.ts';
import type { Context } from './context.ts';
import { versionText } from './picked.ts';
import type { ProjectService } from './projects.ts';

const KEPT_DAYS = 7;
const DAY_MS = 24 * 3600 * 1000;
const PICTURES_NAMED = 200;

type Kept = Pick<RenderRow, 'id' | 'cameraId' | 'variantId' | 'frame' | 'version' | 'files'> & {
  readonly profileId: string;
  readonly isApproved: boolean;
  readonly isDelivered: boolean;
};
interface Chosen {
  readonly all: readonly Kept[];
  readonly goes: readonly Kept[];
  /** Each once. */
  readonly files: readonly { readonly path: string; readonly bytes: number }[];
  readonly stays: CleaningPlan['stays'];
}

export class CleaningService {
  constructor(
    private readonly c: Context,
    private readonly projects: ProjectService,
  ) {}

  async plan(projectId: string, rules: CleaningRules): Promise<CleaningPlan> {
    const project = await this.projects.get(projectId);
    const { all, goes, files, stays } = await this.chosen(projectId, rules);
    const names = new Map([...project.cameras, ...project.variants].map((x) => [x.id, x.name]));
    const nameOf = (r: Kept) =>
      `${names.get(r.cameraId) ?? 'a deleted camera'} in ${names.get(r.variantId) ?? 'a deleted variant'}, ${versionText(r.version)}`;
    const going = new Set(files.map((f) => f.path));
    return {
      renders: all.length,
      bytes: bytesOf(distinct(all.flatMap((r) => r.files))),
      goes: { renders: goes.length, files: files.length, bytes: bytesOf(files) },
      stays,
      pictures: goes
        .slice(0, PICTURES_NAMED)
        .map((r) => ({ renderId: r.id, name: nameOf(r), bytes: bytesOf(r.files.filter((f) => going.has(f.path))) })),
    };
  }

  async clean(projectId: string, rules: CleaningRules): Promise<Cleaning> {
    await this.projects.row(projectId);
    const { goes, files } = await this.chosen(projectId, rules);
    if (!files.length) throw new AppError('WRONG_STATE', 'There is nothing to clean up by these rules.');
    const row: CleaningRow = {
      id: randomUUID(),
      projectId,
      state: 'aside',
      renders: goes.map((r) => r.id),
      files: [...files],
      createdAt: this.c.now(),
    };
    // the rows say so before anything is moved: after a crash between the two it can be undone
    await this.c.db.transaction(async (m) => {
      await m.insert(Cleanings, row as never);
      await m.update(Renders, { id: In(row.renders) }, { cleaningId: row.id });
    });
    for (const { path } of files) await this.c.output.setAside(path, row.id);
    await this.dropTiles(row);
    this.c.events.emit({ type: 'project', projectId });
    return asCleaning(row);
  }

  async list(projectId: string): Promise<Cleaning[]> {
    await this.projects.row(projectId);
    await dropOldCleanings(this.c);
    const rows = await this.c.db.getRepository(Cleanings).find({ where: { projectId }, order: { createdAt: 'DESC' } });
    return rows.map(asCleaning);
  }

  /** @throws AppError NOT_STORED where another file lies in a place: what is back by then stays */
  async undo(projectId: string, cleaningId: string): Promise<Cleaning> {
    const row = await this.c.db.getRepository(Cleanings).findOneBy({ id: cleaningId, projectId });
    if (row?.state !== 'aside') throw new AppError('WRONG_STATE', 'What was cleaned up is not there any more.');
    for (const { path } of row.files) await this.c.output.bringBack(path, row.id);
    await this.c.db.transaction(async (m) => {
      await m.update(Renders, { cleaningId: row.id }, { cleaningId: null });
      await m.update(Cleanings, { id: row.id }, { state: 'undone' });
    });
    await this.dropTiles(row);
    await this.c.output.dropSetAside(row.id);
    this.c.events.emit({ type: 'project', projectId });
    return asCleaning({ ...row, state: 'undone' });
  }

  /** They are made anew of the files that are there then. */
  private async dropTiles({ renders }: CleaningRow): Promise<void> {
    for (const id of renders) await rm(join(this.c.picturesFolder, id), { recursive: true, force: true });
  }

  private async chosen(projectId: string, { versions, keepsDelivered }: CleaningRules): Promise<Chosen> {
    const all = await this.c.db.query<Kept[]>(THERE, [projectId]);
    const newer = new Map<string, number>();
    const goes: Kept[] = [];
    const stays = { approved: 0, delivered: 0 };
    for (const r of all) {
      const key = `${r.cameraId} ${r.variantId} ${r.frame ?? ''} ${r.profileId}`;
      const rank = newer.get(key) ?? 0;
      newer.set(key, rank + 1);
      if (rank < versions) continue;
      if (r.isApproved) stays.approved++;
      else if (r.isDelivered && keepsDelivered) stays.delivered++;
      else goes.push(r);
    }
    const going = new Set(goes.map((r) => r.id));
    const needed = new Set(all.filter((r) => !going.has(r.id)).flatMap((r) => r.files.map((f) => f.path)));
    const files = distinct(goes.flatMap((r) => r.files)).filter((f) => f.kind !== 'thumbnail' && !needed.has(f.path));
    return { all, goes, files: files.map(({ path, bytes }) => ({ path, bytes })), stays };
  }
}

/** What was put aside more than a week ago goes for good. */
export async function dropOldCleanings({ db, output, now }: Pick<Context, 'db' | 'output' | 'now'>): Promise<void> {
  const before = new Date(now().getTime() - KEPT_DAYS * DAY_MS);
  const table = db.getRepository(Cleanings);
  for (const row of await table.findBy({ state: 'aside' })) {
    if (row.createdAt >= before) continue;
    await table.update({ id: row.id }, { state: 'gone' });
    await output.dropSetAside(row.id);
  }
}

const bytesOf = (files: readonly { readonly bytes: number }[]): number => files.reduce((n, f) => n + f.bytes, 0);
const distinct = (files: RenderRow['files']): RenderRow['files'] => [
  ...new Map(files.map((f) => [f.path, f])).values(),
];
const asCleaning = ({ id, state, renders, files, createdAt }: CleaningRow): Cleaning => ({
  id,
  state,
  renders: renders.length,
  files: files.length,
  bytes: bytesOf(files),
  createdAt: createdAt.toISOString(),
  untilAt: new Date(createdAt.getTime() + KEPT_DAYS * DAY_MS).toISOString(),
});

/** Pictures whose files were not cleaned up, the newest first. */
const THERE = `
  SELECT r.id, r.camera_id "cameraId", r.variant_id "variantId", r.frame, r.version, r.files, r.profile->>'id' "profileId",
    v.verdict IS NOT DISTINCT FROM 'approved' "isApproved",
    EXISTS (SELECT 1 FROM delivery d, jsonb_array_elements(d.pictures) p
      WHERE d.project_id = r.project_id AND d.state = 'done' AND p->>'renderId' = r.id::text) "isDelivered"
  FROM render r LEFT JOIN review v ON v.render_id = r.id
  WHERE r.project_id = $1 AND r.cleaning_id IS NULL
  ORDER BY r.camera_id, r.variant_id, r.frame, r.version DESC`;
