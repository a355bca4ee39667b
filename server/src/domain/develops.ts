// Pictures that differ from what is rendered in their grade alone are made from the stored light: as a new version, by
// a task of its own at the lowest priority, with nothing traced.
import { randomUUID } from 'node:crypto';
import { AppError, type DevelopAnswer, type Project } from '@variscen/contract';
import { gradeOf, type Inputs } from '@variscen/core/looks';
import { type FileKind, type Profile, filesOfCell, pathOfFile, pathOfPicture } from '@variscen/core/plan';
import pLimit from 'p-limit';
import { Any } from 'typeorm';
import { type RenderRow, type StoredRender, Outputs, Renders, STORED_RENDER } from '../db/entities/index.ts';
import type { AsideFile } from '../files/outputFolder.ts';
import { runTask } from '../work/run.ts';
import { type CellRef, type PictureRef, byCell, cellKey, pictureKey } from '../work/looksTasks.ts';
import type { Context } from './context.ts';
import { isTaken } from './edits.ts';
import { versionText } from './picked.ts';
import { type NamedCell, PlannedNames } from './plannedNames.ts';
import type { ProjectService } from './projects.ts';
import { picturesOf } from './sequences.ts';

interface Source {
  readonly ref: PictureRef;
  readonly inputs: Inputs;
  readonly hash: string;
  readonly from: StoredRender;
}
interface Wanted {
  readonly source: Source;
  readonly named: () => Promise<NamedCell>;
}
interface Ready {
  readonly source: Source;
  readonly named: NamedCell;
}
/** By which files that are being developed are told from others that lie aside. */
export const DEVELOPED_ASIDE = 'develop-';
/** Pixels of the pictures that a task makes from one reading of their light, which it holds together. */
const TOGETHER_PX = 24e6;
const MOST_TOGETHER = 12;
/** Tasks of the lowest priority. */
const AT_ONCE = 2;
const TOLD_EVERY_MS = 700;
/** Of one statement, which may hold so many values at most. */
const ROWS_AT_ONCE = 500;
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
    const wanted = togetherNamed(sources).flatMap((group): Wanted[] => {
      // the first of them that is begun names all
      let names: Promise<readonly NamedCell[]> | undefined;
      const named = () => (names ??= this.promise(project, group));
      return group.map((source, i) => ({ source, named: async () => (await named())[i]! }));
    });
    const work = ofOneLight(wanted).map((some) => this.atOnce(() => this.some(project, some)));
    void Promise.allSettled(work).then((ended) => {
      const failed = ended.find((e) => e.status === 'rejected');
      if (failed) this.c.events.emit({ type: 'develop-failed', projectId, message: messageOf(failed.reason) });
    });
    return answer;
  }

  private async sources(projectId: string, cells: readonly CellRef[]) {
    const project = await this.projects.get(projectId);
    if (!project.revision) throw new AppError('NO_SCENE', `“${project.name}” has no scene yet.`);
    const refs = picturesOf(
      project,
      cells.map(({ cameraId, variantId }) => ({ cameraId, variantId })),
    );
    const found = await this.c.looks.ask({ kind: 'develop', projectId, refs });
    const ids = found.flatMap((f) => (f.isCurrent ? [] : (f.renderId ?? [])));
    const where = { id: Any([...new Set(ids)]) };
    const stored: StoredRender[] = await this.c.db.getRepository(Renders).find({ select: { ...STORED_RENDER }, where });
    const rows = new Map(stored.map((r) => [r.id, r]));
    const sources: Source[] = [];
    const current = new Set<string>();
    for (const [i, ref] of refs.entries()) {
      const { inputs, hash, renderId, isCurrent } = found[i]!;
      const from = rows.get(renderId ?? '');
      if (isCurrent) current.add(pictureKey(ref));
      else if (from) sources.push({ ref, inputs, hash, from });
    }
    return { project, sources, answer: answerOf(refs, sources, current) };
  }

  /** Those of one light. One that gets no name keeps no other from its own. */
  private async some(project: Project, wanted: readonly Wanted[]): Promise<void> {
    const named = await Promise.allSettled(wanted.map((w) => w.named()));
    const ready = wanted.flatMap(({ source }, i) => {
      const name = named[i]!;
      return name.status === 'fulfilled' ? [{ source, named: name.value }] : [];
    });
    const isDone = ready.length === 0 || (await this.fromOneLight(project, ready));
    // one of them cannot be made: each by itself, so that it keeps no other from being made
    const alone = isDone ? [] : await Promise.allSettled(ready.map((one) => this.fromOneLight(project, [one])));
    for (const ended of [...named, ...alone]) if (ended.status === 'rejected') throw ended.reason;
  }

  /** @returns false: nothing was made, since one of several cannot be @throws where it is one */
  private async fromOneLight(project: Project, wanted: readonly Ready[]): Promise<boolean> {
    const light = lightOf(wanted[0]!.source);
    const path = await this.c.output.toRead(light.path);
    if (await this.c.output.faultOf(light))
      throw new AppError('FILE_CHANGED', `“${light.path}” is not the picture that was rendered.`);
    const traceId = `${DEVELOPED_ASIDE}${randomUUID()}`;
    const asideOf = (i: number, kind: FileKind) => ({ traceId, token: String(i), name: kind });
    try {
      const pictures = await Promise.all(
        wanted.map(async ({ source: { inputs, from }, named }, i) => ({
          grade: gradeIn(inputs),
          description: `${named.cameraName} in ${named.variantName}, ${versionText(named.version)}, ${from.profile.name}, ${from.result.samples} samples`,
          profile: from.profile,
          files: await Promise.all(
            filesOfCell(from.profile, false)
              .map((f) => f.kind)
              .filter((kind) => !kind.startsWith('exr') && !isLight(kind, from.profile))
              .map(async (kind) => ({ kind, file: await this.c.output.asideFor(asideOf(i, kind)) })),
          ),
        })),
      );
      try {
        await runTask({ kind: 'develop', light: path, pictures, assets: this.c.assetsFolder });
      } catch (e) {
        if (wanted.length > 1) return false;
        throw e;
      }
      const stored = await Promise.allSettled(
        wanted.map(({ source, named }, i) => {
          const made = pictures[i]!.files.map(({ kind }) => asideOf(i, kind));
          return this.store(project.id, source, named, made);
        }),
      );
      for (const ended of stored) if (ended.status === 'rejected') throw ended.reason;
      return true;
    } finally {
      await this.c.output.dropAside(traceId);
    }
  }

  /** A version, and paths that nobody else gets: all of them or none. */
  private async promise(project: Project, sources: readonly Source[]): Promise<readonly NamedCell[]> {
    const profiles = sources.map((s) => s.from.profile);
    const names = new PlannedNames(this.c, project, profiles[0]!);
    const refs = sources.map((s) => s.ref);
    const { cells, faults } = await names.of(refs, profiles);
    if (faults[0]) throw new AppError('PLAN_HAS_ERRORS', faults[0].message);
    const outputs = cells.map(({ version, path }, i) => ({
      ...refs[i]!,
      id: randomUUID(),
      traceId: sources[i]!.from.traceId,
      version,
      path: pathOfPicture(path),
    }));
    try {
      await this.c.db.transaction(async (m) => {
        for (let from = 0; from < outputs.length; from += ROWS_AT_ONCE)
          await m.insert(Outputs, outputs.slice(from, from + ROWS_AT_ONCE));
      });
    } catch (e) {
      throw isTaken(e)
        ? new AppError('WRONG_STATE', 'The same cell was queued at the same moment. Develop it again.')
        : e;
    }
    return cells;
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
    made: readonly (AsideFile & { readonly name: FileKind })[],
  ): Promise<void> {
    const planned = new Map(filesOfCell(from.profile, false).map((f) => [f.kind, f]));
    // what is of light lies where it lies
    const files = from.files.filter((f) => f.kind.startsWith('exr') || isLight(f.kind, from.profile));
    for (const aside of made) {
      const path = pathOfFile(named.path, planned.get(aside.name)!);
      files.push({ kind: aside.name, path, ...(await this.c.output.publish(aside, path)) });
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

const lightOf = ({ from }: Source) => from.files.find((f) => f.kind === 'exr')!;
/** Pictures that differ in their grade share a file of light, which a task reads once for a few of them. */
function ofOneLight(wanted: readonly Wanted[]): Wanted[][] {
  const byLight = new Map<string, Wanted[]>();
  for (const w of wanted) {
    const { path } = lightOf(w.source);
    const known = byLight.get(path);
    if (known) known.push(w);
    else byLight.set(path, [w]);
  }
  return [...byLight.values()].flatMap((all) => {
    const { widthPx, heightPx } = all[0]!.source.from;
    const atOnce = Math.min(MOST_TOGETHER, Math.max(1, Math.floor(TOGETHER_PX / (widthPx * heightPx))));
    // as many in each: the last one is not made alone
    const tasks = Math.ceil(all.length / atOnce);
    const from = (i: number) => Math.round((i * all.length) / tasks);
    return Array.from({ length: tasks }, (_, i) => all.slice(from(i), from(i + 1)));
  });
}

/** Pictures of a cell that were rendered by one profile: all of them get one version. */
function togetherNamed(sources: readonly Source[]): Source[][] {
  const groups = new Map<string, Source[]>();
  for (const s of sources) {
    const key = `${cellKey(s.ref)} ${s.from.profile.id}`;
    const group = groups.get(key);
    if (group) group.push(s);
    else groups.set(key, [s]);
  }
  return [...groups.values()];
}

/** Cell by cell; why nothing of a cell is developed, or not all of its frames. */
function answerOf(
  refs: readonly PictureRef[],
  sources: readonly Source[],
  current: ReadonlySet<string>,
): DevelopAnswer {
  const developed = byCell(sources.map((s) => s.ref));
  const cells: CellRef[] = [];
  const refused: DevelopAnswer['refused'] = [];
  for (const [key, of] of byCell(refs)) {
    const { cameraId, variantId } = of[0]!;
    const some = developed.get(key)?.length ?? 0;
    const left = of.length - some - of.filter((ref) => current.has(pictureKey(ref))).length;
    if (some > 0) cells.push({ cameraId, variantId });
    const isOne = of.length === 1;
    if (left > 0)
      refused.push({
        cameraId,
        variantId,
        why: isOne ? NOT_STORED : `Of ${left} of its ${of.length} frames ${NOT_STORED_OF_FRAMES}`,
      });
    else if (some === 0) refused.push({ cameraId, variantId, why: 'It is up to date.' });
  }
  return { cells, pictures: sources.length, refused };
}
const NOT_STORED = 'No stored picture differs from it in its grade alone.';
const NOT_STORED_OF_FRAMES = 'no stored picture differs in its grade alone.';

function gradeIn({ values }: Inputs) {
  const byKey = new Map(values.map(([target, property, value]) => [`${target} ${property}`, value]));
  return gradeOf({ get: (target, property) => byKey.get(`${target} ${property}`) });
}
const messageOf = (e: unknown): string =>
  e instanceof AppError ? `${e.message} ${e.remedy}` : 'A picture could not be developed. Try again.';
