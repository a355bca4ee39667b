// Pictures that differ from what is rendered in their grade alone are made from the stored light: as a new version, by a
// task of its own at the lowest priority, with nothing traced.
import { randomUUID } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { mkdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { AppError, type DevelopAnswer, type Project } from '@variscen/contract';
import { gradeOf, type Inputs } from '@variscen/core/looks';
import { type FileKind, type Profile, filesOfCell, pathOfFile, pathOfPicture } from '@variscen/core/plan';
import pLimit from 'p-limit';
import { Any } from 'typeorm';
import { type RenderRow, Outputs, Renders } from '../db/entities.ts';
import { runTask } from '../work/run.ts';
import type { CellRef } from '../work/looksTasks.ts';
import type { Context } from './context.ts';
import { isTaken } from './edits.ts';
import { versionText } from './picked.ts';
import { type NamedCell, PlannedNames } from './plannedNames.ts';
import type { ProjectService } from './projects.ts';

interface Source {
  readonly ref: CellRef;
  readonly inputs: Inputs;
  readonly hash: string;
  readonly from: RenderRow;
}
/** Tasks of the lowest priority. */
const AT_ONCE = 2;
const TOLD_EVERY_MS = 700;
const MOST_FILE_BYTES = 2 ** 40;
/** Of what is no OpenEXR, a TIFF of floats is light too: it stays as it is. */
const isLight = (kind: FileKind, profile: Profile) => kind === 'tiff' && profile.files.tiff === 'float';

export class DevelopService {
  private readonly atOnce = pLimit(AT_ONCE);
  private readonly telling = new Set<string>();

  constructor(
    private readonly c: Context,
    private readonly projects: ProjectService,
  ) {}

  /** Which cells can be, and why others cannot. */
  async plan(projectId: string, cells: readonly CellRef[]): Promise<DevelopAnswer> {
    return (await this.sources(projectId, cells)).answer;
  }

  /** Answers when it is begun; each picture is there when it is done. */
  async develop(projectId: string, cells: readonly CellRef[]): Promise<DevelopAnswer> {
    const { answer, sources, project } = await this.sources(projectId, cells);
    const work = sources.map((source) => this.atOnce(() => this.one(project, source)));
    void Promise.allSettled(work).then((ended) => {
      const failed = ended.find((e) => e.status === 'rejected');
      if (failed) this.c.events.emit({ type: 'develop-failed', projectId, message: messageOf(failed.reason) });
    });
    return answer;
  }

  private async sources(projectId: string, cells: readonly CellRef[]) {
    const project = await this.projects.get(projectId);
    if (!project.revision) throw new AppError('NO_SCENE', `“${project.name}” has no scene yet.`);
    const isSequence = new Set(project.cameras.filter((x) => x.handling.frames).map((x) => x.id));
    const single = cells.filter((x) => !isSequence.has(x.cameraId));
    const found = await this.c.looks.ask({ kind: 'develop', projectId, refs: single });
    const ids = found.flatMap((f) => f.renderId ?? []);
    const rows = new Map(
      (await this.c.db.getRepository(Renders).findBy({ id: Any([...new Set(ids)]) })).map((r) => [r.id, r]),
    );
    const sources: Source[] = [];
    const refused: DevelopAnswer['refused'] = cells
      .filter((x) => isSequence.has(x.cameraId))
      .map((x) => ({ ...x, why: 'Frames of a sequence are rendered.' }));
    for (const [i, ref] of single.entries()) {
      const { inputs, hash, renderId, isCurrent } = found[i]!;
      const from = rows.get(renderId ?? '');
      if (isCurrent) refused.push({ ...ref, why: 'It is up to date.' });
      else if (!from) refused.push({ ...ref, why: 'No stored picture differs from it in its grade alone.' });
      else sources.push({ ref, inputs, hash, from });
    }
    return { project, sources, answer: { cells: sources.map((s) => s.ref), refused } };
  }

  private async one(project: Project, { ref, inputs, hash, from }: Source): Promise<void> {
    const light = from.files.find((f) => f.kind === 'exr')!;
    const path = await this.c.output.toRead(light.path);
    if (await this.c.output.faultOf(light))
      throw new AppError('FILE_CHANGED', `“${light.path}” is not the picture that was rendered.`);
    const named = await this.promise(project, ref, from);
    const kinds = filesOfCell(from.profile, false)
      .map((f) => f.kind)
      .filter((kind) => !kind.startsWith('exr') && !isLight(kind, from.profile));
    const folder = join(this.c.uploads, randomUUID());
    try {
      await mkdir(folder, { recursive: true });
      const files = kinds.map((kind) => ({ kind, file: join(folder, kind) }));
      await runTask({
        kind: 'develop',
        source: { kind: 'exr', path, grade: gradeIn(inputs) },
        description: `${named.cameraName} in ${named.variantName}, ${versionText(named.version)}, ${from.profile.name}, ${from.result.samples} samples`,
        profile: from.profile,
        files,
        assets: this.c.assetsFolder,
      });
      await this.store(project.id, { ref, inputs, hash, from }, named, files);
    } finally {
      await rm(folder, { recursive: true, force: true });
    }
  }

  /** A version and a path that nobody else gets. */
  private async promise(project: Project, ref: CellRef, from: RenderRow): Promise<NamedCell> {
    const names = new PlannedNames(this.c, project, from.profile);
    const { cells, faults } = await names.of([{ ...ref, frame: null }], [from.profile]);
    if (faults[0]) throw new AppError('PLAN_HAS_ERRORS', faults[0].message);
    const [named] = cells as [NamedCell];
    const output = { ...ref, frame: null, version: named.version, path: pathOfPicture(named.path) };
    try {
      await this.c.db.getRepository(Outputs).insert({ id: randomUUID(), traceId: from.traceId, ...output });
    } catch (e) {
      throw isTaken(e)
        ? new AppError('WRONG_STATE', 'The same cell was queued at the same moment. Develop it again.')
        : e;
    }
    return named;
  }

  /** Pages read the board anew each time: of many pictures not for each of them. */
  private tellSoon(projectId: string): void {
    if (this.telling.has(projectId)) return;
    this.telling.add(projectId);
    setTimeout(() => {
      this.telling.delete(projectId);
      this.c.events.emit({ type: 'project', projectId });
    }, TOLD_EVERY_MS).unref();
  }

  private async store(
    projectId: string,
    { ref, inputs, hash, from }: Source,
    named: NamedCell,
    made: readonly { readonly kind: FileKind; readonly file: string }[],
  ): Promise<void> {
    const aside = { traceId: `develop-${randomUUID()}`, token: 'once' };
    const planned = new Map(filesOfCell(from.profile, false).map((f) => [f.kind, f]));
    // what is of light lies where it lies
    const files = from.files.filter((f) => f.kind.startsWith('exr') || isLight(f.kind, from.profile));
    try {
      for (const { kind, file } of made) {
        const name = { ...aside, name: kind };
        await this.c.output.putAside(name, createReadStream(file), MOST_FILE_BYTES);
        const path = pathOfFile(named.path, planned.get(kind)!);
        files.push({ kind, path, ...(await this.c.output.publish(name, path)) });
      }
    } finally {
      await this.c.output.dropAside(aside.traceId);
    }
    const result = { ...from.result, developedFrom: from.version };
    const row: RenderRow = {
      ...from,
      ...ref,
      id: randomUUID(),
      version: named.version,
      hash,
      inputs,
      files,
      result,
      createdAt: this.c.now(),
    };
    await this.c.db.getRepository(Renders).insert(row as never);
    this.tellSoon(projectId);
  }
}

function gradeIn({ values }: Inputs) {
  const byKey = new Map(values.map(([target, property, value]) => [`${target} ${property}`, value]));
  return gradeOf({ get: (target, property) => byKey.get(`${target} ${property}`) });
}
const messageOf = (e: unknown): string =>
  e instanceof AppError ? `${e.message} ${e.remedy}` : 'A picture could not be developed. Try again.';
