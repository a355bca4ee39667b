// What rendering took before, from which plans say what it will take: the more alike, the surer.
import type { PlanTraceSource } from '@variscen/contract';
import type { Profile } from '@variscen/core/plan';
import { type CameraSettings, croppedPx } from '@variscen/core/scene';
import type { DataSource } from 'typeorm';

/** Of each camera its last traces, and of other projects theirs. */
const LOOKED_AT = 3;
const OTHERS_LOOKED_AT = 10;

/** A trace that was done. */
export interface RenderCost {
  readonly projectId: string;
  readonly cameraId: string | null;
  readonly variantId: string | null;
  readonly widthPx: number;
  readonly heightPx: number;
  readonly crop: CameraSettings['crop'] | null;
  readonly profile: Profile;
  readonly seconds: number;
}
export interface Expected {
  readonly expectedS: number;
  /** From what it is expected. */
  readonly from: PlanTraceSource;
}
/** What is asked about. */
export interface Asked {
  readonly cameraId: string;
  readonly variantId: string;
  readonly profile: Profile;
  readonly pixels: number;
}

/** The latest first, without those whose meshes were loaded in turns. */
export async function renderCosts(db: DataSource, projectId: string): Promise<RenderCost[]> {
  const columns = `t.project_id "projectId", t.width_px "widthPx", t.height_px "heightPx", t.profile,
    t.inputs->'camera'->'crop' crop, (t.result->>'seconds')::float8 seconds`;
  const isWithRoom = `coalesce((t.result->'meshes'->>'drops')::int, 0) = 0`;
  const own = await db.query<RenderCost[]>(
    `SELECT x.camera_id "cameraId", x.variant_id "variantId", ${columns} FROM (
        SELECT o.camera_id, o.variant_id, o.trace_id,
            row_number() OVER (PARTITION BY o.camera_id ORDER BY t.finished_at DESC) n
          FROM output o JOIN trace t ON t.id = o.trace_id WHERE t.project_id = $1 AND t.state = 'done' AND ${isWithRoom}) x
      JOIN trace t ON t.id = x.trace_id WHERE x.n <= ${LOOKED_AT} ORDER BY t.finished_at DESC`,
    [projectId],
  );
  if (own.length) return own;
  return db.query<RenderCost[]>(
    `SELECT NULL "cameraId", NULL "variantId", ${columns} FROM trace t WHERE t.state = 'done' AND t.result IS NOT NULL AND ${isWithRoom}
      ORDER BY t.finished_at DESC LIMIT ${OTHERS_LOOKED_AT}`,
  );
}

/**
 * Null before anything was rendered or measured.
 * @param pathS of a light path, as it was measured of the cell; null: it was not
 */
export function expectedOf(costs: readonly RenderCost[], asked: Asked, pathS: number | null = null): Expected | null {
  const known = costs.filter((c) => c.seconds > 0);
  const ofCamera = known.filter((c) => c.cameraId === asked.cameraId);
  const levels: readonly (readonly [PlanTraceSource, readonly RenderCost[]])[] = [
    ['cell', ofCamera.filter((c) => c.variantId === asked.variantId && isSameWay(c.profile, asked.profile))],
    ['camera', ofCamera.filter((c) => isSameWay(c.profile, asked.profile))],
    ['camera', ofCamera],
    ['measured', []],
    ['project', known.filter((c) => c.cameraId !== null)],
    ['other', known],
  ];
  for (const [from, like] of levels) {
    const perPixelSample = from === 'measured' ? pathS : meanOf(like);
    if (perPixelSample === null) continue;
    const s = perPixelSample * asked.pixels * asked.profile.samples;
    return { expectedS: Math.min(asked.profile.timeLimitS ?? Infinity, s), from };
  }
  return null;
}
/** What is loaded in turns takes longer. @param times as long, about; null: it is not known */
export function inTurns(expected: Expected | null, times: number | null, timeLimitS: number | null): Expected | null {
  if (expected === null || times === 1) return expected;
  if (times === null) return null;
  return { expectedS: Math.min(timeLimitS ?? Infinity, expected.expectedS * times), from: 'measured' };
}
/** Seconds for a sample of a pixel; null: nothing was rendered. */
const meanOf = (costs: readonly RenderCost[]): number | null =>
  costs.length ? costs.reduce((n, c) => n + c.seconds, 0) / costs.reduce((n, c) => n + workOf(c), 0) : null;

/** Whether measuring the cell would tell more than what is known. */
export const isUnsure = (expected: Expected | null): boolean =>
  expected === null || expected.from === 'project' || expected.from === 'other';

/**
 * Samples that the profile asks for, whatever its noise limit saved of them: the next one of its kind saves as much.
 */
function workOf({ widthPx, heightPx, crop, profile }: RenderCost): number {
  const part = croppedPx({ widthPx, heightPx }, crop ?? undefined);
  return part.widthPx * part.heightPx * profile.samples;
}
const isSameWay = (a: Profile, b: Profile): boolean =>
  a.integrator === b.integrator &&
  a.maxBounces === b.maxBounces &&
  a.noise === b.noise &&
  a.timeLimitS === b.timeLimitS;
