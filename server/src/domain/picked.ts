// Pictures that somebody has picked, with all that is known of them: for sheets, tables and deliveries.
import { AppError, type Project, type Review } from '@variscen/contract';
import type { LabelValues } from '@variscen/core/sheet';
import { Any } from 'typeorm';
import { type StoredRender, Renders, STORED_RENDER } from '../db/entities/index.ts';
import type { Context } from './context.ts';

export interface Picked {
  readonly row: StoredRender;
  readonly camera: Project['cameras'][number];
  readonly variant: Project['variants'][number];
  readonly review: Review | null;
}

/** In the order in which they are named. @throws AppError where one is not of this project, or its cell is gone */
export async function pickedOf(
  c: Context,
  project: Project,
  renderIds: readonly string[],
  reviews: readonly Review[],
): Promise<Picked[]> {
  const ids = [...new Set(renderIds)];
  const where = { id: Any(ids), projectId: project.id };
  const rows: StoredRender[] = await c.db.getRepository(Renders).find({ select: { ...STORED_RENDER }, where });
  const byId = new Map(rows.map((r) => [r.id, r]));
  const said = new Map(reviews.map((r) => [r.renderId, r]));
  const [cameras, variants] = [byIdOf(project.cameras), byIdOf(project.variants)];
  return ids.map((id) => {
    const row = byId.get(id);
    const [camera, variant] = [cameras.get(row?.cameraId ?? ''), variants.get(row?.variantId ?? '')];
    if (!row || !camera || !variant)
      throw new AppError('NOT_FOUND', 'One of these pictures is no longer there, or its camera or variant is deleted.');
    return { row, camera, variant, review: said.get(id) ?? null };
  });
}
const byIdOf = <T extends { readonly id: string }>(list: readonly T[]) => new Map(list.map((x) => [x.id, x]));

export const versionText = (version: number): string => `v${String(version).padStart(3, '0')}`;

export function labelValuesOf(project: Project, { row, camera, variant, review }: Picked): LabelValues {
  const own = project.options.filter((o) => variant.optionIds.includes(o.id));
  const named = (facet: string) =>
    own
      .filter((o) => o.facet === facet)
      .map((o) => o.name)
      .join(', ');
  return {
    camera: camera.name,
    variant: variant.name,
    lighting: named('lighting'),
    environment: named('environment'),
    materials: named('materials'),
    visibility: named('visibility'),
    placement: named('placement'),
    grade: named('grade'),
    version: versionText(row.version),
    frame: row.frame === null ? '' : `frame ${row.frame}`,
    profile: row.profile.name,
    size: `${row.widthPx} × ${row.heightPx}`,
    samples: `${row.result.samples} samples`,
    time: secondsText(row.result.seconds),
    date: row.createdAt.toISOString().slice(0, 10),
    verdict: review?.verdict ?? '',
    note: review?.note ?? '',
  };
}
function secondsText(s: number): string {
  const whole = Math.round(s);
  return whole < 60 ? `${Number(s.toPrecision(2))} s` : `${Math.floor(whole / 60)} min ${whole % 60} s`;
}
