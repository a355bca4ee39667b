// Options that travel: out of a project into the library or a file, and from there into another project.
import { randomUUID } from 'node:crypto';
import { AppError, type LibraryEntry, type LooksMatchAnswer, type LooksSource, type Project } from '@variscen/contract';
import { type ByHand, type LooksFile, bringLooks } from '@variscen/core/looks';
import { LibraryEntries, type LibraryRow, Options } from '../db/entities/index.ts';
import type { Context } from './context.ts';
import { isTaken } from './edits.ts';
import { freeName } from './options.ts';
import { insertOption } from './optionRows.ts';
import type { ProjectService } from './projects.ts';

export interface Bring {
  readonly source: LooksSource;
  readonly byHand: ByHand;
  readonly only?: readonly number[] | undefined;
  readonly keepUnmatched: boolean;
}

export class LibraryService {
  constructor(
    private readonly c: Context,
    private readonly projects: ProjectService,
  ) {}

  async list(): Promise<LibraryEntry[]> {
    return (await this.c.db.getRepository(LibraryEntries).find({ order: { createdAt: 'DESC' } })).map(entryOf);
  }

  /** Options of a project as they are recorded now, as a file. */
  async pack(projectId: string, optionIds: readonly string[]): Promise<LooksFile> {
    const { name } = await this.projects.row(projectId);
    return this.c.looks.ask({ kind: 'pack', projectId, from: name, optionIds });
  }
  async save(projectId: string, optionIds: readonly string[], name: string): Promise<LibraryEntry> {
    const row: LibraryRow = {
      id: randomUUID(),
      name,
      looks: await this.pack(projectId, optionIds),
      createdAt: this.c.now(),
    };
    await this.c.db
      .getRepository(LibraryEntries)
      .insert(row as never)
      .catch((e: unknown) => {
        throw isTaken(e) ? new AppError('NAME_TAKEN', `The library has an entry “${name}” already.`) : e;
      });
    this.c.events.emit({ type: 'library' });
    return entryOf(row);
  }
  async file(id: string): Promise<{ name: string; looks: LooksFile }> {
    const row = await this.c.db.getRepository(LibraryEntries).findOneBy({ id });
    if (!row) throw new AppError('NOT_FOUND', 'There is no such entry in the library.');
    return row;
  }
  async rename(id: string, name: string): Promise<LibraryEntry> {
    await this.file(id);
    await this.c.db
      .getRepository(LibraryEntries)
      .update({ id }, { name })
      .catch((e: unknown) => {
        throw isTaken(e) ? new AppError('NAME_TAKEN', `The library has an entry “${name}” already.`) : e;
      });
    this.c.events.emit({ type: 'library' });
    return entryOf({ ...(await this.file(id)), id } as LibraryRow);
  }
  async remove(id: string): Promise<void> {
    if (!(await this.c.db.getRepository(LibraryEntries).delete({ id })).affected)
      throw new AppError('NOT_FOUND', 'There is no such entry in the library.');
    this.c.events.emit({ type: 'library' });
  }

  /** What would be found in a project's scene. Changes nothing. */
  async match(projectId: string, source: LooksSource, byHand: ByHand): Promise<LooksMatchAnswer> {
    const { p, looks, match } = await this.matched(projectId, source, byHand);
    return {
      from: looks.from,
      options: looks.options.map((o) => ({
        facet: o.facet,
        name: o.name,
        changes: o.changes.length,
        taken: p.options.some((x) => x.facet === o.facet && x.name.toLowerCase() === o.name.toLowerCase()),
      })),
      things: match.things.map((t) => ({ ...t, candidates: [...t.candidates] })),
      missing: [...match.missing],
    };
  }
  /** New options, as one edit. One whose name is taken gets a number. */
  async bring(
    projectId: string,
    { source, byHand, only, keepUnmatched }: Bring,
  ): Promise<{ project: Project; optionIds: string[]; left: number }> {
    const { looks, match } = await this.matched(projectId, source, byHand);
    const { options, left } = bringLooks(looks, match, { only, keepUnmatched });
    const optionIds: string[] = [];
    if (!options.length) throw new AppError('INVALID', 'None of the options was selected.', 'Select at least one.');
    const project = await this.projects.write(
      projectId,
      `Import ${options.length === 1 ? `option ${options[0]!.name}` : `${options.length} options`}`,
      async (m) => {
        const taken = new Set(
          (await m.findBy(Options, { projectId })).map((o) => `${o.facet} ${o.name.toLowerCase()}`),
        );
        for (const o of options) {
          const own = { has: (n: string) => taken.has(`${o.facet} ${n}`) } as ReadonlySet<string>;
          const name = own.has(o.name.toLowerCase()) ? freeName(o.name, own) : o.name;
          taken.add(`${o.facet} ${name.toLowerCase()}`);
          optionIds.push(await insertOption(m, projectId, o.facet, name, o.changes, { notes: o.notes, tag: null }));
        }
      },
    );
    return { project, optionIds, left };
  }
  private async matched(projectId: string, source: LooksSource, byHand: ByHand) {
    const p = await this.projects.get(projectId);
    const looks = (source.file ?? (await this.file(source.entryId!)).looks) as LooksFile;
    if (!p.revision) throw new AppError('NO_SCENE', `“${p.name}” has no scene yet.`);
    return { p, looks, match: await this.c.looks.ask({ kind: 'match', projectId, looks, byHand }) };
  }
}
const entryOf = (r: LibraryRow): LibraryEntry => ({
  id: r.id,
  name: r.name,
  from: r.looks.from,
  createdAt: r.createdAt.toISOString(),
  options: r.looks.options.map((o) => ({ facet: o.facet, name: o.name, notes: o.notes, changes: o.changes.length })),
});
