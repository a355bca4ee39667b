// In what pictures differ from what would be rendered now.
import { AppError } from '@variscen/contract';
import { unpackMet } from '@variscen/core/cull';
import { type Difference, type Inputs, type ResolvedState, changesOnlyUnmet, differences } from '@variscen/core/looks';
import { type LooksAnswers, type LooksAsk, type PictureRef, byCell, cellKey, pictureKey } from '../looksTasks.ts';
import { db, connected, COMPARED_TOGETHER } from './reach.ts';
import { type Loaded, type HashedPicture, LooksNow, load, hashesOf, sceneAt } from './loaded.ts';

interface LastRender extends PictureRef {
  readonly id: string;
  readonly hash: string;
  /** Whether it is known what its rays met. */
  readonly isMetKnown: boolean;
}
/** By picture its last render. */
async function lastRenders(projectId: string, profileId: string | null) {
  const rows = await db.query<LastRender[]>(
    `SELECT DISTINCT ON (camera_id, variant_id, frame)
        id, camera_id "cameraId", variant_id "variantId", frame, hash, met IS NOT NULL "isMetKnown"
      FROM render WHERE project_id = $1 AND ($2::text IS NULL OR profile->>'id' = $2)
      ORDER BY camera_id, variant_id, frame, version DESC`,
    [projectId, profileId],
  );
  return new Map(rows.map((r) => [pictureKey(r), r]));
}

export async function board({
  projectId,
  profileId,
  cell,
}: LooksAsk & { kind: 'board' }): Promise<LooksAnswers['board']> {
  const l = await load(projectId);
  const pictures = hashesOf(l, cell);
  const changed = await changedSince(l, pictures, await lastRenders(projectId, profileId), true);
  return pictures.map((p) => ({ ...p, ...(changed.get(pictureKey(p)) ?? { stands: false, differences: [] }) }));
}

interface Changed {
  /** Only what none of its rays met has changed. */
  readonly stands: boolean;
  readonly differences: readonly Difference[];
}
interface RenderedFrom {
  readonly id: string;
  readonly inputs: Inputs;
  readonly met: string | null;
}

/**
 * Of pictures whose look is another since they were rendered, whether they stand, and what has changed; of a sequence
 * the first that differs says it for all: what was changed is in each of them.
 * @param saysWhat otherwise only whether they stand
 */
async function changedSince(
  l: Loaded,
  pictures: readonly HashedPicture[],
  last: Awaited<ReturnType<typeof lastRenders>>,
  saysWhat: boolean,
): Promise<ReadonlyMap<string, Changed>> {
  const looks = new LooksNow(l);
  const told = new Set<string>();
  const wanted = pictures.flatMap((p) => {
    const render = last.get(pictureKey(p));
    if (!render || render.hash === p.hash) return [];
    const tells = saysWhat && !told.has(cellKey(p));
    told.add(cellKey(p));
    return tells || (l.staysUnmet && render.isMetKnown) ? [{ p, id: render.id, tells }] : [];
  });
  const out = new Map<string, Changed>();
  for (let i = 0; i < wanted.length; i += COMPARED_TOGETHER) {
    const some = wanted.slice(i, i + COMPARED_TOGETHER);
    const rows = await db.query<RenderedFrom[]>('SELECT id, inputs, met FROM render WHERE id = ANY($1)', [
      some.map(({ id }) => id),
    ]);
    const from = new Map(rows.map((r) => [r.id, r]));
    for (const { p, id, tells } of some) {
      const was = from.get(id);
      if (!was) continue;
      const is = looks.of(p);
      out.set(pictureKey(p), {
        stands: l.staysUnmet && stands(was, is, l.index.document.nodes.length),
        differences: tells ? differences(was.inputs, is.inputs, is.state) : [],
      });
    }
  }
  return out;
}
const stands = (was: RenderedFrom, is: { inputs: Inputs; state: ResolvedState }, nodes: number): boolean =>
  was.met !== null && changesOnlyUnmet(was.inputs, is.inputs, is.state, unpackMet(was.met, nodes));

/** In what the inputs of two renders differ. */
export async function rendersDiffer(was: string, is: string): Promise<readonly Difference[]> {
  await connected;
  const rows = await db.query<{ id: string; inputs: Inputs }[]>('SELECT id, inputs FROM render WHERE id = ANY($1)', [
    [was, is],
  ]);
  const inputsOfRender = (id: string) => rows.find((r) => r.id === id)?.inputs;
  const [before, now] = [inputsOfRender(was), inputsOfRender(is)];
  if (!before || !now) throw new AppError('NOT_FOUND', 'There is no such picture.');
  const scene = await sceneAt(now.scene);
  return differences(before, now, { scene });
}

/** For a list of projects: without what the board says of each cell. */
export async function counts(projectId: string): Promise<LooksAnswers['counts']> {
  const l = await load(projectId);
  const [last, open, excluded] = await Promise.all([
    lastRenders(projectId, null),
    db.query<{ cell: string }[]>(
      `SELECT (c.cell->>'cameraId') || ' ' || (c.cell->>'variantId') AS cell
        FROM trace t, jsonb_array_elements(t.cells) c(cell)
        WHERE t.project_id = $1 AND t.state IN ('waiting', 'paused', 'rendering')`,
      [projectId],
    ),
    db.query<{ cell: string }[]>(
      `SELECT e.camera || ' ' || v.id AS cell FROM variant v, jsonb_array_elements_text(v.excluded_camera_ids) e(camera)
        WHERE v.project_id = $1`,
      [projectId],
    ),
  ]);
  const isOpen = new Set(open.map((r) => r.cell));
  const isOut = new Set(excluded.map((r) => r.cell));
  const pictures = hashesOf(l).filter((p) => !isOut.has(cellKey(p)));
  const changed = await changedSince(l, pictures, last, false);
  const isAsNow = (p: HashedPicture) =>
    last.get(pictureKey(p))?.hash === p.hash || changed.get(pictureKey(p))?.stands === true;
  const cells = byCell(pictures);
  const current = [...cells].flatMap(([key, of]) => {
    if (isOpen.has(key) || !of.every(isAsNow)) return [];
    return [of.map((p) => last.get(pictureKey(p))!.id)];
  });
  return { total: cells.size, current };
}
