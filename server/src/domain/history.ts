// Every edit of a project as a step that can be taken back and done again, by the rows that it changed; it outlives the
// page and the server. Triggers keep the rows (migrations 0003 and 0008), so that a new kind of edit is in the
// history without a word here.
import { AppError, type HistoryHead } from '@variscen/contract';
import { isDeepStrictEqual } from 'node:util';
import type { DataSource, EntityManager } from 'typeorm';
import { type Image, type RowEdit, clash } from './conflicts.ts';
import { origin } from './origin.ts';

/** Steps kept of a project. */
const KEPT = 200;
/** Edits of the same thing that follow each other so closely are one step: a slider that is drawn. */
const MERGED_MS = 2000;
/** Tables that edits change, with what tells their rows apart. */
const KEYS: Readonly<Record<string, readonly string[]>> = {
  project: ['id'],
  camera: ['id'],
  look_option: ['id'],
  variant: ['id'],
  patch: ['id'],
  pending: ['project_id', 'destination'],
  review: ['render_id'],
  region: ['id'],
};

interface Row {
  readonly table_name: string;
  readonly before: Image | null;
  readonly after: Image | null;
  /** By column that holds a list: how many entries before the part that is kept here, and after it, did not change. */
  readonly spliced: Readonly<Record<string, readonly [number, number]>>;
}
export interface Step {
  readonly id: string;
  readonly label: string;
  readonly state: 'done' | 'undone';
  readonly at: string;
}

export class History {
  constructor(
    private readonly db: DataSource,
    private readonly now: () => Date,
  ) {}

  /**
   * Runs an edit in one transaction, as one step. Edits of a project come after each other. An edit that changes
   * nothing leaves no step; one that does ends what could be done again.
   * @param drawn such an edit comes many times in a second, as when a slider is drawn: it joins the one before it.
   */
  async record(
    projectId: string,
    label: string,
    work: (m: EntityManager) => Promise<string | void>,
    drawn = false,
  ): Promise<void> {
    await this.db.transaction(async (m) => {
      await lockProject(m, projectId);
      const step = await this.openStep(m, projectId, label, drawn);
      await m.query(`SELECT set_config('variscen.step', $1, true)`, [step]);
      const name = await work(m);
      if (typeof name === 'string')
        await m.query(`UPDATE history_step SET label = $2 WHERE id = $1`, [step, name.slice(0, 300)]);
      const [{ some }] = (await m.query<{ some: boolean }[]>(
        `SELECT EXISTS (SELECT 1 FROM history_row WHERE step_id = $1) AS some`,
        [step],
      )) as [{ some: boolean }];
      if (!some) {
        await m.query(`DELETE FROM history_step WHERE id = $1`, [step]);
        return;
      }
      await this.refuseClash(m, projectId, step);
      await m.query(
        `DELETE FROM history_step WHERE project_id = $1 AND (state = 'undone'
          OR id <= (SELECT id FROM history_step WHERE project_id = $1 ORDER BY id DESC OFFSET $2 LIMIT 1))`,
        [projectId, KEPT],
      );
    });
  }
  private async openStep(m: EntityManager, projectId: string, label: string, drawn: boolean): Promise<string> {
    const { tab } = origin();
    const [last] = await m.query<{ id: string; label: string; state: string; tab: string | null; created_at: Date }[]>(
      `SELECT id, label, state, tab, created_at FROM history_step WHERE project_id = $1 ORDER BY id DESC LIMIT 1`,
      [projectId],
    );
    const now = this.now();
    const isSame = last?.state === 'done' && last.label === label && last.tab === tab;
    if (drawn && isSame && now.getTime() - last.created_at.getTime() < MERGED_MS) {
      await m.query(`UPDATE history_step SET created_at = $2 WHERE id = $1`, [last.id, now]);
      return last.id;
    }
    const [made] = (await m.query<{ id: string }[]>(
      `INSERT INTO history_step (project_id, label, state, tab, created_at) VALUES ($1, $2, 'done', $3, $4) RETURNING id`,
      [projectId, label.slice(0, 300), tab, now],
    )) as [{ id: string }];
    return made.id;
  }
  /**
   * What another window has done since this one looked is not overwritten: an edit of the same values is refused, and
   * so is all that it did with others.
   */
  private async refuseClash(m: EntityManager, projectId: string, step: string): Promise<void> {
    const { tab, seen } = origin();
    if (seen === null) return;
    const others = await m.query<(Row & { label: string })[]>(
      `SELECT s.label, r.table_name, r.before, r.after, r.spliced
        FROM history_step s JOIN history_row r ON r.step_id = s.id
        WHERE s.project_id = $1 AND r.id > $2 AND s.id <> $3 AND s.state = 'done' AND s.tab IS DISTINCT FROM $4
        ORDER BY r.id`,
      [projectId, seen, step, tab],
    );
    if (!others.length) return;
    const mine = (await rowsOf(m, step)).map(edited);
    const found = others.find((r) => mine.some((e) => clash(e, edited(r))));
    if (found)
      throw new AppError(
        'CONFLICT',
        `In another window “${found.label}” was done meanwhile. Your change of the same was not made.`,
      );
  }

  /** Newest first. */
  async steps(projectId: string): Promise<Step[]> {
    const rows = await this.db.query<{ id: string; label: string; state: 'done' | 'undone'; created_at: Date }[]>(
      `SELECT id, label, state, created_at FROM history_step WHERE project_id = $1 ORDER BY id DESC`,
      [projectId],
    );
    return rows.map((r) => ({ id: r.id, label: r.label, state: r.state, at: r.created_at.toISOString() }));
  }
  /**
   * Turns back or forth until the step is the last that is done; '0': nothing is. One transaction for each step, so
   * that each is whole.
   */
  async goTo(projectId: string, stepId: string): Promise<void> {
    const at = BigInt(stepId);
    for (;;) {
      const steps = await this.steps(projectId);
      const top = steps.find((s) => s.state === 'done');
      const next = steps.findLast((s) => s.state === 'undone');
      if (at !== 0n && !steps.some((s) => BigInt(s.id) === at))
        throw new AppError('NOT_FOUND', 'That step is no longer in the history.');
      if (top && BigInt(top.id) > at) await this.undo(projectId);
      else if (next && BigInt(next.id) <= at) await this.redo(projectId);
      else return;
    }
  }
  /** What undo would take back and redo would do again. */
  async next(projectId: string): Promise<HistoryHead> {
    const [row] = (await this.db.query<HistoryHead[]>(
      `SELECT
        (SELECT max(r.id)::text FROM history_row r JOIN history_step s ON s.id = r.step_id
          WHERE s.project_id = $1) AS last,
        (SELECT label FROM history_step WHERE project_id = $1 AND state = 'done' ORDER BY id DESC LIMIT 1) AS undo,
        (SELECT label FROM history_step WHERE project_id = $1 AND state = 'undone' ORDER BY id LIMIT 1) AS redo`,
      [projectId],
    )) as [HistoryHead];
    return row;
  }

  undo(projectId: string): Promise<string> {
    return this.turn(projectId, 'done');
  }
  redo(projectId: string): Promise<string> {
    return this.turn(projectId, 'undone');
  }

  /**
   * A step that another window has made, and this one has not seen yet, is not turned without a word: the page shows it
   * first.
   */
  private async refuseUnseen(m: EntityManager, stepId: string, label: string, back: boolean): Promise<void> {
    const { tab, seen } = origin();
    if (seen === null) return;
    const [row] = await m.query<{ tab: string | null; last: string | null }[]>(
      `SELECT s.tab, (SELECT max(r.id)::text FROM history_row r WHERE r.step_id = s.id) AS last FROM history_step s WHERE s.id = $1`,
      [stepId],
    );
    if (!row || row.tab === tab || row.last === null || BigInt(row.last) <= BigInt(seen)) return;
    throw new AppError(
      'CONFLICT',
      `In another window “${label}” was done meanwhile. It was not ${back ? 'undone' : 'redone'}.`,
      `What it did is shown now. ${back ? 'Undo' : 'Redo'} again if it is still wanted.`,
    );
  }

  private turn(projectId: string, from: Step['state']): Promise<string> {
    return this.db.transaction(async (m) => {
      await lockProject(m, projectId);
      const back = from === 'done';
      const [step] = await m.query<{ id: string; label: string }[]>(
        `SELECT id, label FROM history_step WHERE project_id = $1 AND state = $2 ORDER BY id ${back ? 'DESC' : 'ASC'} LIMIT 1`,
        [projectId, from],
      );
      if (!step)
        throw new AppError(
          'WRONG_STATE',
          back ? 'There is nothing to undo.' : 'There is nothing to redo.',
          'Edits of this project appear here as they are made.',
        );
      await this.refuseUnseen(m, step.id, step.label, back);
      const turns = (await rowsOf(m, step.id)).map((r) => turnOf(r, back));
      if (back) turns.reverse();
      for (const t of parentsFirst(turns)) await put(m, t, step.label);
      await m.query(`UPDATE history_step SET state = $2 WHERE id = $1`, [step.id, back ? 'undone' : 'done']);
      return step.label;
    });
  }
}

const keyOfRow = (table: string, image: Image): string =>
  [table, ...(KEYS[table] ?? []).map((k) => String(image[k]))].join(' ');
const edited = (r: Row): RowEdit => ({
  table: r.table_name,
  key: keyOfRow(r.table_name, (r.after ?? r.before)!),
  before: r.before,
  after: r.after,
});

async function lockProject(m: EntityManager, projectId: string): Promise<void> {
  const found = await m.query<unknown[]>(`SELECT 1 FROM project WHERE id = $1 FOR UPDATE`, [projectId]);
  if (!found.length) throw new AppError('NOT_FOUND', 'There is no such project.');
}
const rowsOf = (m: EntityManager, step: string): Promise<Row[]> =>
  m.query<Row[]>(`SELECT table_name, before, after, spliced FROM history_row WHERE step_id = $1 ORDER BY id`, [step]);

/** What becomes of a row. */
interface Turn {
  readonly table: string;
  readonly from: Image | null;
  readonly to: Image | null;
  readonly spliced: Row['spliced'];
}
const turnOf = ({ table_name: table, before, after, spliced }: Row, back: boolean): Turn =>
  back ? { table, from: after, to: before, spliced } : { table, from: before, to: after, spliced };

/**
 * Patches refer to cameras and variants: those that go are gone before them, and those that come come after them. In
 * the history they may stand the other way, since what is deleted with a row is noted after it.
 */
function parentsFirst(turns: readonly Turn[]): Turn[] {
  const patches = new Map<string, Turn[]>();
  for (const t of turns) {
    if (t.table !== 'patch') continue;
    const key = keyOfRow(t.table, (t.to ?? t.from)!);
    patches.set(key, [...(patches.get(key) ?? []), t]);
  }
  const first: Turn[] = [];
  const last: Turn[] = [];
  for (const own of patches.values()) {
    const wasThere = own[0]!.from !== null;
    const isThere = own.at(-1)!.to !== null;
    if (wasThere && !isThere) first.push(...own);
    else if (wasThere || isThere) last.push(...own);
  }
  return [...first, ...turns.filter((t) => t.table !== 'patch'), ...last];
}

/** Makes the row that is as `from` be as `to`. What does not differ in them stays as it is. */
async function put(m: EntityManager, { table, from, to, spliced }: Turn, label: string): Promise<void> {
  const keys = KEYS[table];
  const image = to ?? from;
  if (!keys || !image) throw new Error(`The history names a table ${table}.`);
  const isRow = keys.map((k) => `t.${k} = r.${k}`).join(' AND ');
  const rowFrom = (parameter: string) => `jsonb_populate_record(NULL::${table}, ${parameter}::jsonb)`;
  if (!to) {
    const gone = await m.query(`DELETE FROM ${table} t USING ${rowFrom('$1')} r WHERE ${isRow} RETURNING 1`, [
      JSON.stringify(image),
    ]);
    expectOne(gone, label);
    return;
  }
  if (!from) {
    await m.query(`INSERT INTO ${table} SELECT * FROM ${rowFrom('$1')}`, [JSON.stringify(image)]);
    return;
  }
  const isPlain = (c: string) => /^[a-z_]+$/.test(c) && !keys.includes(c);
  const columns = Object.keys(to).filter((c) => isPlain(c) && !isDeepStrictEqual(from[c], to[c]));
  if (!columns.length) return;
  const set: string[] = [];
  const asItWas: string[] = [];
  for (const c of columns) {
    const ends = spliced[c];
    if (ends) {
      const [first, rest] = ends.map(Number) as [number, number];
      const middle = `list_part(t.${c}, ${first}, ${rest})`;
      const beginning = `list_part(t.${c}, 0, jsonb_array_length(t.${c}) - ${first})`;
      const end = `list_part(t.${c}, jsonb_array_length(t.${c}) - ${rest}, 0)`;
      set.push(`${c} = ${beginning} || r.${c} || ${end}`);
      asItWas.push(`${middle} = o.${c}`);
    } else {
      set.push(`${c} = r.${c}`);
      asItWas.push(`t.${c} IS NOT DISTINCT FROM o.${c}`);
    }
  }
  const done = await m.query(
    `UPDATE ${table} t SET ${set.join(', ')} FROM ${rowFrom('$1')} r, ${rowFrom('$2')} o
      WHERE ${[isRow, ...asItWas].join(' AND ')} RETURNING 1`,
    [JSON.stringify(to), JSON.stringify(from)],
  );
  expectOne(done, label);
}
/** TypeORM answers updates and deletes with rows and their count. */
function expectOne(answer: unknown, label: string): void {
  if ((answer as [unknown[], number])[1] !== 1)
    throw new AppError(
      'WRONG_STATE',
      `“${label}” cannot be undone or redone: what it changed is no longer there, or is not as it left it.`,
      'Change it by hand.',
    );
}
