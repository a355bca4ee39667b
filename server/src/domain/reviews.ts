// What people say of pictures: approved or rejected, a note, marks drawn on it.
import {
  AppError,
  MOST_NOTE,
  type NotesFile,
  type Rendered,
  type Review,
  type ReviewChange,
  type Verdict,
} from '@variscen/contract';
import { profileDifferences } from '@variscen/core/plan';
import { Any } from 'typeorm';
import { type RenderRow, type ReviewRow, Cameras, Projects, Renders, Reviews, Variants } from '../db/entities/index.ts';
import { renderOf } from './board.ts';
import type { Context } from './context.ts';
import type { Edits } from './edits.ts';

export class ReviewService {
  constructor(
    private readonly c: Context,
    private readonly edits: Edits,
  ) {}

  async rendered(projectId: string): Promise<Rendered[]> {
    await this.mustBeThere(projectId);
    const rows = await this.c.db.query<(Omit<Rendered, 'createdAt'> & { createdAt: Date })[]>(RENDERED, [projectId]);
    return rows.map((r) => ({ ...r, createdAt: r.createdAt.toISOString() }));
  }

  async render(renderId: string) {
    const row = await this.find(renderId);
    const before = await this.before(row);
    return {
      render: renderOf(row),
      engine: row.result.engine ?? null,
      before: before && {
        renderId: before.id,
        version: before.version,
        differences: [
          ...(await this.c.looks.ask({ kind: 'renders', was: before.id, is: row.id })),
          ...drawnOtherwise(before, row),
          ...profileDifferences(before.profile, row.profile).map((d) => ({ subject: 'Profile', ...d })),
        ],
      },
    };
  }
  private before({ cameraId, variantId, frame, version }: RenderRow): Promise<RenderRow | null> {
    const versions = this.c.db
      .getRepository(Renders)
      .createQueryBuilder('r')
      .where('r.cameraId = :cameraId AND r.variantId = :variantId AND r.version < :version', {
        cameraId,
        variantId,
        version,
      })
      .andWhere('r.frame IS NOT DISTINCT FROM :frame', { frame });
    return versions.orderBy('r.version', 'DESC').getOne();
  }

  async list(projectId: string): Promise<Review[]> {
    await this.mustBeThere(projectId);
    const rows = await this.c.db.query<(Omit<Review, 'saidAt'> & { saidAt: Date })[]>(REVIEWS, [projectId]);
    return rows.map((r) => ({ ...r, saidAt: r.saidAt.toISOString() }));
  }

  /** One edit, of one picture or of many. Of a picture that nothing is said of any more nothing is kept. */
  async change(projectId: string, renderIds: readonly string[], change: ReviewChange): Promise<void> {
    const ids = [...new Set(renderIds)];
    const renders = await this.c.db.getRepository(Renders).find({
      select: { id: true, cameraId: true, variantId: true, version: true },
      where: { id: Any(ids), projectId },
    });
    if (renders.length < ids.length) throw new AppError('NOT_FOUND', 'One of these pictures is no longer there.');
    const label = labelOf(change, renders.length === 1 ? await this.nameOf(renders[0]!) : `${renders.length} pictures`);
    await this.edits.write(projectId, label, async (m) => {
      const table = m.getRepository(Reviews);
      const known = new Map((await table.findBy({ renderId: Any(ids) })).map((r) => [r.renderId, r]));
      const said = ids.map((renderId): ReviewRow => {
        const was = known.get(renderId) ?? { verdict: null, note: '', marks: [] };
        const { verdict = was.verdict, note = was.note, marks = was.marks } = change;
        return { renderId, projectId, verdict, note, marks, saidAt: this.c.now() };
      });
      const nothing = said.filter((r) => r.verdict === null && r.note === '' && !r.marks.length);
      if (nothing.length) await table.delete({ renderId: Any(nothing.map((r) => r.renderId)) });
      const something = said.filter((r) => !nothing.includes(r));
      if (something.length) await table.upsert(something as never, ['renderId']);
    });
  }
  /** Notes of somebody who saw a delivery, as one edit. Pictures that are not there any more are counted. */
  async bringNotes(projectId: string, { delivery, notes }: NotesFile): Promise<{ brought: number; unknown: number }> {
    const found = await this.c.db
      .getRepository(Renders)
      .find({ select: { id: true }, where: { id: Any(notes.map((n) => n.renderId)), projectId } });
    const there = new Set(found.map((r) => r.id));
    const brought = notes.filter((n) => there.has(n.renderId) && (n.verdict !== null || n.note.trim() !== ''));
    const from = `From delivery ${delivery}: `;
    await this.edits.write(projectId, `Bring ${brought.length} notes on delivery ${delivery} in`, async (m) => {
      const table = m.getRepository(Reviews);
      const known = new Map((await table.findBy({ renderId: Any([...there]) })).map((r) => [r.renderId, r]));
      const said = brought.map(({ renderId, verdict, note }): ReviewRow => {
        const was = known.get(renderId);
        const line = note.trim() && from + note.trim();
        // the same file brought in twice says it once
        const notesThen = was?.note.includes(line) ? was.note : [was?.note, line].filter(Boolean).join('\n');
        return {
          renderId,
          projectId,
          verdict: verdict ?? was?.verdict ?? null,
          note: notesThen.slice(0, MOST_NOTE),
          marks: was?.marks ?? [],
          saidAt: this.c.now(),
        };
      });
      if (said.length) await table.upsert(said as never, ['renderId']);
    });
    return { brought: brought.length, unknown: notes.length - notes.filter((n) => there.has(n.renderId)).length };
  }
  private async nameOf({ cameraId, variantId, version }: Pick<RenderRow, 'cameraId' | 'variantId' | 'version'>) {
    const camera = await this.c.db.getRepository(Cameras).findOneBy({ id: cameraId });
    const variant = await this.c.db.getRepository(Variants).findOneBy({ id: variantId });
    return `${camera?.name ?? 'a camera'} in ${variant?.name ?? 'a variant'}, v${String(version).padStart(3, '0')}`;
  }

  private async mustBeThere(projectId: string): Promise<void> {
    if (!(await this.c.db.getRepository(Projects).existsBy({ id: projectId })))
      throw new AppError('NOT_FOUND', 'There is no such project.');
  }
  private async find(renderId: string): Promise<RenderRow> {
    const row = await this.c.db.getRepository(Renders).findOneBy({ id: renderId });
    if (!row) throw new AppError('NOT_FOUND', 'There is no such picture.');
    return row;
  }
}

const VERDICT_WORDS: Readonly<Record<Verdict, string>> = { approved: 'Approve', rejected: 'Reject' };
function labelOf({ verdict, note, marks }: ReviewChange, what: string): string {
  if (verdict) return `${VERDICT_WORDS[verdict]} ${what}`;
  if (verdict === null) return `Take back the verdict on ${what}`;
  if (marks) return `Mark ${what}`;
  return note === undefined ? `Review ${what}` : `Note on ${what}`;
}

const drawnOtherwise = (was: RenderRow, is: RenderRow) =>
  was.result.engine && is.result.engine && was.result.engine !== is.result.engine
    ? [{ subject: 'Engine', what: 'build', was: was.result.engine.slice(0, 8), is: is.result.engine.slice(0, 8) }]
    : [];

const RENDERED = `
  SELECT r.id, r.camera_id "cameraId", r.variant_id "variantId", r.frame, r.version, t.batch_id "batchId",
    r.profile->>'name' "profileName", r.width_px "widthPx", r.height_px "heightPx", r.created_at "createdAt"
  FROM render r LEFT JOIN trace t ON t.id = r.trace_id
  WHERE r.project_id = $1 ORDER BY r.created_at DESC, r.id`;
const REVIEWS = `
  SELECT v.render_id "renderId", r.camera_id "cameraId", r.variant_id "variantId", r.version, v.verdict, v.note, v.marks,
    v.said_at "saidAt"
  FROM review v JOIN render r ON r.id = v.render_id WHERE v.project_id = $1`;
