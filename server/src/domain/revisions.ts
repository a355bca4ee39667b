// Revisions of a project's scene. The first file is in force at once; a newer one is offered, looked at, and accepted
// with what a person says about it.
import { randomUUID } from 'node:crypto';
import { AppError, type HandMatch, type MatchPreview, type Revision } from '@variscen/contract';
import { type Change, objectTarget } from '@variscen/core/looks';
import type { MaterialVariant, SceneMatch } from '@variscen/core/scene';
import {
  type ProjectRow,
  Cameras,
  Options,
  Patches,
  Pendings,
  Projects,
  type RevisionRow,
  Revisions,
} from '../db/entities/index.ts';
import { PLACED_HANDLING } from '@variscen/core/scene';
import type { EntityManager } from 'typeorm';
import { runTask } from '../work/run.ts';
import type { Context } from './context.ts';
import { type Edits, nextOrdinal } from './edits.ts';
import { insertOption } from './optionRows.ts';
import { asRevision } from './revisionRows.ts';

/** Matches named in a preview. */
const NOTABLE = 4000;

export class RevisionService {
  private readonly importing = new Set<string>();
  constructor(
    private readonly c: Context,
    private readonly edits: Edits,
  ) {}

  async list(projectId: string): Promise<Revision[]> {
    return (await this.c.db.getRepository(Revisions).find({ where: { projectId }, order: { number: 'DESC' } })).map(
      asRevision,
    );
  }

  /** Reads an uploaded file in a worker; stores everything or nothing. */
  async importScene(
    projectId: string,
    file: string,
    fileName: string,
    metresPerUnit: number | undefined,
    signal: AbortSignal,
  ): Promise<Revision> {
    if (this.importing.has(projectId))
      throw new AppError('IMPORT_BUSY', 'Another scene is being imported into this project.');
    this.importing.add(projectId);
    const stage = randomUUID();
    try {
      const { sceneHash, report, cameras, whole, variants } = await runTask(
        {
          kind: 'import',
          assets: this.c.assetsFolder,
          file,
          fileName,
          stage,
          ...(metresPerUnit !== undefined && { metresPerUnit }),
        },
        (fraction) => this.c.events.emit({ type: 'import', projectId, fraction }),
        signal,
      );
      const id = randomUUID();
      let row: RevisionRow | undefined;
      // the first one is in force at once, and so a step of the history; an offered one changes nothing yet
      await this.edits.write(projectId, `Import the scene ${fileName}`, async (m) => {
        const [{ last }] = (await m.query<{ last: number }[]>(
          `SELECT coalesce(max(number), 0)::int AS last FROM scene_revision WHERE project_id = $1`,
          [projectId],
        )) as [{ last: number }];
        const { revisionId } = await m.findOneByOrFail(Projects, { id: projectId });
        const first = revisionId === null;
        // a file that was offered and not accepted makes room for a newer one
        await m.delete(Revisions, { projectId, state: 'offered' });
        const made: RevisionRow = {
          id,
          projectId,
          number: last + 1,
          sceneHash,
          report,
          state: first ? 'accepted' : 'offered',
          match: null,
          createdAt: this.c.now(),
        };
        await m.insert(Revisions, made as never);
        if (first) {
          await m.update(Projects, { id: projectId }, { revisionId: id });
          await addVariants(m, projectId, variants);
          if ((await m.count(Cameras, { where: { projectId } })) === 0)
            await m.insert(
              Cameras,
              (cameras.length ? cameras : [{ name: 'Whole scene', settings: whole }]).map((k, ordinal) => ({
                ...k,
                handling: PLACED_HANDLING,
                id: randomUUID(),
                projectId,
                ordinal,
              })) as never,
            );
        }
        row = made;
      });
      return asRevision(row!);
    } finally {
      await this.c.assets.stage(stage).drop(); // also where the worker was stopped half-way
      this.importing.delete(projectId);
    }
  }

  async preview(
    projectId: string,
    revisionId: string,
    byHand: readonly HandMatch[],
    signal: AbortSignal,
  ): Promise<MatchPreview> {
    const { row, known, project } = await this.offered(projectId, revisionId);
    const { match, cameras, camerasBefore } = await runTask(
      {
        kind: 'match',
        assets: this.c.assetsFolder,
        known,
        after: row.sceneHash,
        byHand,
      },
      undefined,
      signal,
    );
    const recorded = await this.recorded(project);
    const notable = match.matches.filter((m) => m.how !== 'path' || m.moved || m.changed);
    const own = await this.c.db.getRepository(Cameras).find({ where: { projectId }, order: { ordinal: 'ASC' } });
    const earlier = new Map(camerasBefore.map((x) => [x.name, x.settings]));
    return {
      ...countsOf(match),
      notable: notable
        .slice(0, NOTABLE)
        .map(({ kind, from, to, how, moved, changed }) => ({ kind, from, to, how, moved, changed })),
      notableCount: notable.length,
      gone: match.gone
        .map((t) => ({ ...t, recorded: recorded.get(targetOf(t.kind, t.id)) ?? 0 }))
        .sort((a, b) => b.recorded - a.recorded),
      added: [...match.added],
      newCameras: cameras
        .filter((x) => !own.some((o) => o.name.toLowerCase() === x.name.toLowerCase()))
        .map((x) => x.name),
      movedCameras: cameras.flatMap((x) => {
        const mine = own.find((o) => o.name.toLowerCase() === x.name.toLowerCase());
        const was = earlier.get(x.name);
        return mine &&
          (!was ||
            was.matrix.some((v, i) => Math.abs(v - x.settings.matrix[i]!) > 1e-6) ||
            was.focalLengthMm !== x.settings.focalLengthMm)
          ? [{ cameraId: mine.id, name: mine.name }]
          : [];
      }),
    };
  }

  async accept(
    projectId: string,
    revisionId: string,
    ask: { byHand: readonly HandMatch[]; addCameras: readonly string[]; moveCameraIds: readonly string[] },
  ): Promise<void> {
    const { row, known } = await this.offered(projectId, revisionId);
    const { match, sceneHash, cameras, variants } = await runTask({
      kind: 'revise',
      assets: this.c.assetsFolder,
      known,
      after: row.sceneHash,
      byHand: ask.byHand,
    });
    await this.edits.write(projectId, `Make revision ${row.number} of the scene current`, async (m) => {
      const done = await m.update(Revisions, { id: row.id, state: 'offered' }, {
        state: 'accepted',
        sceneHash,
        match: { ...countsOf(match), gone: match.gone.slice(0, NOTABLE), addedCount: match.added.length },
      } as never);
      if (!done.affected) throw new AppError('WRONG_STATE', 'This revision is already in force, or was discarded.');
      await m.update(Projects, { id: projectId }, { revisionId: row.id });
      await addVariants(m, projectId, variants);
      for (const k of cameras.filter((x) => ask.addCameras.includes(x.name)))
        await m.insert(Cameras, {
          ...k,
          handling: PLACED_HANDLING,
          id: randomUUID(),
          projectId,
          ordinal: await nextOrdinal(m, Cameras, projectId),
        } as never);
      for (const mine of await m.findBy(Cameras, { projectId })) {
        const k = ask.moveCameraIds.includes(mine.id)
          ? cameras.find((x) => x.name.toLowerCase() === mine.name.toLowerCase())
          : undefined;
        if (k)
          await m.update(
            Cameras,
            { id: mine.id },
            {
              settings: {
                ...mine.settings,
                matrix: k.settings.matrix,
                focalLengthMm: k.settings.focalLengthMm,
                sensorWidthMm: k.settings.sensorWidthMm,
              } as never,
            },
          );
      }
    });
  }

  async use(projectId: string, revisionId: string): Promise<void> {
    const row = await this.c.db.getRepository(Revisions).findOneBy({ id: revisionId, projectId, state: 'accepted' });
    if (!row) throw new AppError('NOT_FOUND', 'There is no such revision in force before.');
    await this.edits.write(projectId, `Make revision ${row.number} of the scene current`, async (m) => {
      await m.update(Projects, { id: projectId }, { revisionId });
    });
  }

  async discard(projectId: string, revisionId: string): Promise<void> {
    if (!(await this.c.db.getRepository(Revisions).delete({ id: revisionId, projectId, state: 'offered' })).affected)
      throw new AppError('WRONG_STATE', 'This revision is in force or was in force, and stays.');
    this.edits.tell(projectId);
  }

  /**
   * Moves what is recorded for one thing to another. Where both set a value, the other keeps its own, and the moved one
   * stays where it was.
   */
  async retarget(projectId: string, from: string, to: string): Promise<void> {
    const kind = (t: string) => t.slice(0, t.indexOf(':'));
    if (from === to || kind(from) !== kind(to) || !['object', 'light', 'material'].includes(kind(from)))
      throw new AppError(
        'INVALID',
        `What is recorded for “${from}” cannot go to “${to}”.`,
        'Choose another thing of the same kind.',
      );
    const move = (changes: readonly Change[]): Change[] => {
      const taken = new Set(changes.filter((c) => c.target === to).map((c) => c.property));
      return changes.map((c) => {
        if (c.target === from && !taken.has(c.property)) return { ...c, target: to };
        const wearsIt = c.property === 'object.material' && from === `material:${String(c.value)}`;
        return wearsIt ? { ...c, value: to.slice('material:'.length) } : c;
      });
    };
    const differs = (a: readonly Change[], b: readonly Change[]) => a.some((c, i) => c !== b[i]);
    await this.edits.write(projectId, `Move what is recorded for ${from.slice(from.indexOf(':') + 1)}`, async (m) => {
      const project = await m.findOneByOrFail(Projects, { id: projectId });
      let moved = 0;
      const each = async (changes: readonly Change[], keep: (next: Change[]) => Promise<unknown>) => {
        const next = move(changes);
        if (differs(changes, next)) {
          moved++;
          await keep(next);
        }
      };
      await each(project.base, (base) => m.update(Projects, { id: projectId }, { base } as never));
      for (const o of await m.findBy(Options, { projectId }))
        await each(o.changes, (changes) => m.update(Options, { id: o.id }, { changes } as never));
      for (const p of await m.findBy(Patches, { projectId }))
        await each(p.changes, (changes) => m.update(Patches, { id: p.id }, { changes } as never));
      for (const p of await m.findBy(Pendings, { projectId }))
        await each(p.changes, (changes) =>
          m.update(Pendings, { projectId, destination: p.destination }, { changes } as never),
        );
      if (!moved)
        throw new AppError(
          'WRONG_STATE',
          'Nothing is recorded for it that the other does not set itself.',
          'Look at what the other sets.',
        );
    });
  }

  private async offered(
    projectId: string,
    revisionId: string,
  ): Promise<{ row: RevisionRow; known: string[]; project: ProjectRow }> {
    const all = await this.c.db.getRepository(Revisions).find({ where: { projectId }, order: { number: 'DESC' } });
    const row = all.find((r) => r.id === revisionId);
    const project = await this.c.db.getRepository(Projects).findOneByOrFail({ id: projectId });
    if (!row || row.state !== 'offered')
      throw new AppError('WRONG_STATE', 'This revision is already in force, or was discarded.');
    const accepted = all.filter((r) => r.state === 'accepted');
    return {
      row,
      project,
      known: [
        ...accepted.filter((r) => r.id === project.revisionId),
        ...accepted.filter((r) => r.id !== project.revisionId),
      ].map((r) => r.sceneHash),
    };
  }
  /** How many recorded values there are for each target. */
  private async recorded(project: ProjectRow): Promise<Map<string, number>> {
    const counts = new Map<string, number>();
    const where = { projectId: project.id };
    const add = (changes: readonly Change[]) => {
      for (const c of changes) counts.set(c.target, (counts.get(c.target) ?? 0) + 1);
    };
    add(project.base);
    for (const table of [Options, Patches, Pendings] as const)
      for (const row of await this.c.db
        .getRepository<{ projectId: string; changes: Change[] }>(table as never)
        .findBy(where))
        add(row.changes);
    return counts;
  }
}

/** The file's own choices of materials become Materials options, but for those whose names are taken. */
async function addVariants(m: EntityManager, projectId: string, variants: readonly MaterialVariant[]): Promise<void> {
  const taken = new Set((await m.findBy(Options, { projectId, facet: 'materials' })).map((o) => o.name.toLowerCase()));
  for (const v of variants) {
    const name = v.name.trim().slice(0, 120) || 'Variant of the file';
    if (taken.has(name.toLowerCase())) continue;
    taken.add(name.toLowerCase());
    await insertOption(
      m,
      projectId,
      'materials',
      name,
      Object.entries(v.wears).map(([path, value]) => ({
        target: objectTarget(path),
        property: 'object.material',
        value,
      })),
    );
  }
}

const targetOf = (kind: SceneMatch['gone'][number]['kind'], id: string): string =>
  `${kind === 'material' || kind === 'light' ? kind : 'object'}:${id}`;
const countsOf = (m: SceneMatch) => ({
  matched: m.matches.length,
  moved: m.matches.filter((x) => x.moved).length,
  changed: m.matches.filter((x) => x.changed).length,
  byName: m.matches.filter((x) => x.how === 'name' || x.how === 'parent').length,
  byHand: m.matches.filter((x) => x.how === 'hand').length,
});
