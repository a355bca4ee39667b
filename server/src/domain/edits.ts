// How a project's rows are changed: in one transaction, as one step of its history, said to everybody who looks at it.
import { AppError } from '@variscen/contract';
import { type EntityManager, type EntitySchema, type ObjectLiteral, QueryFailedError } from 'typeorm';
import { Projects } from '../db/entities/index.ts';
import type { Context } from './context.ts';
import { History } from './history.ts';
import { origin } from './origin.ts';

export class Edits {
  readonly history: History;
  constructor(private readonly c: Context) {
    this.history = new History(c.db, c.now);
  }

  /**
   * A taken name becomes a clear message.
   * @param about pending: nothing but edits that are not kept, which no picture shows. drawn: it may follow itself many
   * times in a second, as one step.
   * @param label what the step is called in the history: “Rename camera Front”. Where only the work finds out, it gives
   * the name back.
   */
  async write(
    projectId: string,
    label: string,
    work: (m: EntityManager) => Promise<string | void>,
    about: { readonly pending?: boolean; readonly drawn?: boolean } = {},
  ): Promise<void> {
    if (!(await this.c.db.getRepository(Projects).existsBy({ id: projectId })))
      throw new AppError('NOT_FOUND', 'There is no such project.');
    await this.guarded(() => this.history.record(projectId, label, work, about.drawn));
    if (about.pending) this.c.events.emit({ type: 'pending', projectId, tab: origin().tab });
    else this.tell(projectId);
  }
  async goTo(projectId: string, stepId: string): Promise<void> {
    try {
      await this.guarded(() => this.history.goTo(projectId, stepId));
    } finally {
      this.tell(projectId);
    }
  }
  async turn(projectId: string, way: 'undo' | 'redo'): Promise<string> {
    const label = await this.guarded(() => this.history[way](projectId));
    this.tell(projectId);
    return label;
  }
  tell(projectId: string): void {
    this.c.events.emit({ type: 'project', projectId });
    this.c.events.emit({ type: 'projects' });
  }
  private async guarded<T>(work: () => Promise<T>): Promise<T> {
    try {
      return await work();
    } catch (e) {
      if (isTaken(e)) throw new AppError('NAME_TAKEN', 'That name is taken in this project.');
      throw e;
    }
  }
}

/** Whether a uniqueness constraint refused it. */
export const isTaken = (e: unknown): boolean =>
  e instanceof QueryFailedError && (e.driverError as { code?: string }).code === '23505';

export const nextOrdinal = async <T extends ObjectLiteral>(
  m: EntityManager,
  table: EntitySchema<T>,
  projectId: string,
): Promise<number> =>
  Number(
    (
      await m
        .createQueryBuilder(table, 't')
        .select('max(t.ordinal)', 'last')
        .where('t.project_id = :projectId', { projectId })
        .getRawOne<{ last: number | null }>()
    )?.last ?? -1,
  ) + 1;
/**
 * Gives rows of a project the ordinals of their places in a list, where they differ; rows that are not named keep
 * theirs.
 */
export async function putInOrder<T extends ObjectLiteral & { id: string; ordinal: number }>(
  m: EntityManager,
  table: EntitySchema<T>,
  projectId: string,
  ids: readonly string[],
): Promise<void> {
  const now = new Map((await m.findBy(table, { projectId } as never)).map((r) => [r.id, r.ordinal]));
  for (const [ordinal, id] of ids.entries())
    if (now.get(id) !== ordinal) await m.update(table, { id, projectId } as never, { ordinal } as never);
}
/** The named ones first, then all others in the order that they had; names of what is not there are left out. */
export const namedFirst = (all: readonly string[], named: readonly string[]): string[] => [
  ...named.filter((id) => all.includes(id)),
  ...all.filter((id) => !named.includes(id)),
];
export const dropUndefined = <T extends object>(o: T): Partial<T> =>
  Object.fromEntries(Object.entries(o).filter(([, v]) => v !== undefined)) as Partial<T>;
export async function changeOne<T extends ObjectLiteral>(
  m: EntityManager,
  table: EntitySchema<T>,
  where: object,
  set: object,
  what: string,
): Promise<void> {
  const clean = dropUndefined(set);
  if (Object.keys(clean).length === 0) {
    if (!(await m.existsBy(table, where as never))) throw new AppError('NOT_FOUND', `There is no such ${what}.`);
    return;
  }
  const done = await m.update(table, where as never, clean as never);
  if (!done.affected) throw new AppError('NOT_FOUND', `There is no such ${what}.`);
}
export async function removeOne<T extends ObjectLiteral>(
  m: EntityManager,
  table: EntitySchema<T>,
  where: object,
  what: string,
): Promise<void> {
  if (!(await m.delete(table, where as never)).affected) throw new AppError('NOT_FOUND', `There is no such ${what}.`);
}
