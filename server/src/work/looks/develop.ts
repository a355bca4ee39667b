// Which stored light a picture can be developed from.
import { type Inputs, traceHash } from '@variscen/core/looks';
import { type LooksAnswers, type PictureRef, pictureKey } from '../looksTasks.ts';
import { db, COMPARED_TOGETHER } from './reach.ts';
import { load } from './loaded.ts';
import { cellsOf } from './cells.ts';

/** By picture the stored one whose light it has: its own latest before others of its camera, then the newest. */
export async function developable(projectId: string, refs: readonly PictureRef[]): Promise<LooksAnswers['develop']> {
  const l = await load(projectId);
  const cells = cellsOf(l, refs);
  const rows = await db.query<Lit[]>(LIT, [projectId, [...new Set(refs.map((r) => r.cameraId))]]);
  const own = new Map(rows.map((r) => [pictureKey(r), r]));
  const newest = new Map<string, Lit>();
  const lights = new Map<string, string>();
  for (let i = 0; i < rows.length; i += COMPARED_TOGETHER) {
    const some = rows.slice(i, i + COMPARED_TOGETHER);
    const inputs = await db.query<{ id: string; inputs: Inputs }[]>(
      'SELECT id, inputs FROM render WHERE id = ANY($1)',
      [some.map((r) => r.id)],
    );
    for (const r of inputs) lights.set(r.id, traceHash(r.inputs));
  }
  const keyOf = (cameraId: string, light: string | undefined) => `${cameraId} ${light ?? ''}`;
  for (const r of rows) {
    const key = keyOf(r.cameraId, lights.get(r.id));
    const known = newest.get(key);
    if (!known || r.at > known.at) newest.set(key, r);
  }
  return cells.map(({ inputs, hash, traceHash: light }, i) => {
    const ref = refs[i]!;
    const mine = own.get(pictureKey(ref));
    const from = mine && lights.get(mine.id) === light ? mine : newest.get(keyOf(ref.cameraId, light));
    return { inputs, hash, renderId: from?.id ?? null, isCurrent: mine?.hash === hash };
  });
}
interface Lit extends PictureRef {
  readonly id: string;
  readonly hash: string;
  readonly at: Date;
}
/** The latest of each picture, where its light is in a file. */
const LIT = `
  SELECT id, "cameraId", "variantId", frame, hash, at FROM (
    SELECT DISTINCT ON (camera_id, variant_id, frame)
      id, camera_id "cameraId", variant_id "variantId", frame, hash, created_at at, files
    FROM render WHERE project_id = $1 AND camera_id = ANY($2) AND cleaning_id IS NULL
    ORDER BY camera_id, variant_id, frame, version DESC) latest
  WHERE files @> '[{"kind": "exr"}]'`;
