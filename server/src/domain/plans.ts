// From selected cells to traces, memory, names and clashes; and from a faultless plan to a batch in the queue.
import { randomUUID } from 'node:crypto';
import { AppError, type Plan, type PlanRequest, type Project } from '@variscen/contract';
import { LOST_WITH_DROPPED } from '@variscen/core/cull';
import type { Change, Inputs } from '@variscen/core/looks';
import { croppedPx } from '@variscen/core/scene';
import {
  type Profile,
  type ProfileException,
  exceptionsOf,
  frameSize,
  groupCells,
  isFirstInLight,
  mostFileBytes,
  profileFor,
} from '@variscen/core/plan';
import { Batches } from '../db/entities/index.ts';
import type { Context } from './context.ts';
import { lastTraces, restBytes } from './measured.ts';
import { damagedCullPlans, damagedFiles, excludedCells, unknownValues, vanishedTargets } from './planRemarks.ts';
import { type NewTrace, queueBatch } from './newBatch.ts';
import { type PlannedCell, type PlannedGroup, oncePer, sharingOf, togetherIn } from './plannedGroups.ts';
import type { PlannedTrace, PlanTask } from '../work/tasks.ts';
import { plannedTraceRows } from './plannedTraceRows.ts';
import { plannedTraces } from './plannedTraces.ts';
import { PlannedNames } from './plannedNames.ts';
import type { ProfileService } from './profiles.ts';
import { type Expected, expectedOf, isUnsure, renderCosts } from './renderCosts.ts';
import { MOST_ASKED_ABOUT, slowdowns } from './slowdowns.ts';
import { asChanges } from './asChanges.ts';
import type { CullService } from './cull.ts';
import type { ProjectService } from './projects.ts';
import { picturesOf, sequenceIds } from './sequences.ts';
import { cellKey } from '../work/looksTasks.ts';
import { sha256 } from '../files/store.ts';

export class PlanService {
  constructor(
    private readonly c: Context,
    private readonly projects: ProjectService,
    private readonly profiles: ProfileService,
    private readonly culls: CullService,
  ) {}

  /** @param signal of who waits for it */
  async plan(projectId: string, request: PlanRequest, signal: AbortSignal): Promise<Plan> {
    return (await this.work(projectId, request, signal)).plan;
  }

  private async work(projectId: string, request: PlanRequest, signal?: AbortSignal) {
    const p = await this.projects.get(projectId);
    const profile = await this.profiles.find(p, request.profileId);
    const exceptions = p.exceptions as readonly ProfileException[];
    const { cells, groups, errors, warnings, notSound } = await this.cellsOf(p, profile, request);
    const folder = profile.outputFolder ?? '';
    const fault = await this.c.output.faultOfFolder(folder);
    if (fault !== null) errors.push({ message: fault, path: null });

    const [planned, expected] = await Promise.all([
      this.planned(p, groups, notSound, signal),
      this.expectedTimes(p, groups),
    ]);
    const slower = await slowdowns(this.culls, p, groups, planned);
    const rows = plannedTraceRows(
      groups,
      groups.map((g, i) => ({
        planned: planned[i]!,
        expected: expected[i]!,
        slower: slower[i]!,
        excepted: exceptionsOf(exceptions, profile.id, g.cells[0]!),
      })),
    );
    const { traces } = rows;
    errors.push(...rows.errors);
    const said = new Set([...warnings, ...rows.warnings]);
    if (traces.some((t) => t.droppedCount + t.inPartCount > 0)) said.add(LOST_WITH_DROPPED);
    const lasting = [...said]; // what is free on the disk is another in a moment
    const space = await this.space(groups, rows.pixels, planned, folder);
    if (space.mostFileBytes + space.filmBytes > space.freeBytes) said.add(shortOfSpace(space));
    return {
      p,
      profile,
      cells,
      groups,
      plan: {
        hash: hashOf(profile, traces, cells, lasting),
        profile: profile as Plan['profile'],
        traces,
        ...space,
        ...(await this.whenDone(traces)),
        errors: [...new Map(errors.map((e) => [e.message, e])).values()],
        warnings: [...said],
      } satisfies Plan,
    };
  }

  /** What is asked for, by the traces that serve it, and what is wrong with it before any of it is worked out. */
  private async cellsOf(p: Project, profile: Profile, request: PlanRequest) {
    const exceptions = p.exceptions as readonly ProfileException[];
    const refs = picturesOf(p, request.cells);
    const profiles = refs.map((ref) => profileFor(profile, exceptions, ref));
    const [now, named] = await Promise.all([
      this.c.looks.ask({
        kind: 'cells',
        projectId: p.id,
        refs,
        ...(!request.separately && { sharing: sharingOf(p, refs, profiles, this.budgetBytes()) }),
      }),
      new PlannedNames(this.c, p, profile).of(refs, profiles),
    ]);
    const cells = named.cells.map((cell, i): PlannedCell => {
      const { inputs, hash, traceHash } = now.cells[i]!;
      const own = profiles[i]!;
      // cells that are rendered otherwise have a trace of their own
      const isException = exceptionsOf(exceptions, profile.id, cell).length > 0;
      const how = isException ? sha256(new TextEncoder().encode(JSON.stringify([traceHash, own]))) : traceHash;
      return { ...cell, inputs, hash, profile: own, traceHash: how };
    });
    const errors: Plan['errors'] = [...excludedCells(p, cells), ...unknownValues(cells, now.cells), ...named.faults];
    errors.push(...damagedFiles(cells, now.cells, now.notSound), ...damagedCullPlans(cells, now.notSound));
    return {
      cells,
      groups: togetherIn(groupCells(cells), cells, now.shared),
      errors,
      warnings: vanishedTargets(now.cells),
      notSound: now.notSound.map((x) => x.hash),
    };
  }

  /** What each trace would load, drop and take. */
  private async planned(
    p: Project,
    groups: readonly PlannedGroup[],
    notSound: readonly string[],
    signal: AbortSignal | undefined,
  ): Promise<readonly PlannedTrace[]> {
    const { nodes } = this.c.queue;
    const changesOf = oncePer((values: Inputs['values']) => asChanges(values));
    const lightingsOf = oncePerList<readonly Change[]>();
    const task: PlanTask = {
      kind: 'plan',
      assets: this.c.assetsFolder,
      sceneHash: p.revision!.sceneHash,
      threads: nodes.threads(),
      budgetBytes: this.budgetBytes(),
      processRestBytes: restBytes(await lastTraces(this.c.db), nodes.restBytes()),
      notSound,
      traces: groups.map(({ cells: [cell], inputs, lightings }) => ({
        profile: cell!.profile,
        camera: inputs.camera,
        changes: changesOf(inputs.values),
        ...(lightings.length > 1 && { lightings: lightingsOf(lightings.map((l) => changesOf(l.inputs.values))) }),
        ...frameSize(cell!.profile, inputs.camera),
      })),
    };
    return plannedTraces(task, signal);
  }

  /** What files take at most, and the film of the largest trace while it renders; and what there is. */
  private async space(
    groups: readonly PlannedGroup[],
    pixels: readonly number[],
    planned: readonly PlannedTrace[],
    folder: string,
  ): Promise<Pick<Plan, 'mostFileBytes' | 'freeBytes' | 'filmBytes'>> {
    const ofGroup = ({ cells }: PlannedGroup, pixelsOfIt: number) =>
      cells.reduce((n, cell, k) => n + mostFileBytes(cell.profile, pixelsOfIt, isFirstInLight(cells, k)), 0);
    return {
      mostFileBytes: groups.reduce((n, g, i) => n + ofGroup(g, pixels[i]!), 0),
      freeBytes: await this.c.disk.usableBytes(await this.c.output.standing(folder)),
      filmBytes: Math.max(0, ...planned.map((t) => t.bytes.film)),
    };
  }

  /** null: something of what is to come was never measured. */
  private async whenDone(traces: Plan['traces']): Promise<Pick<Plan, 'aheadS' | 'doneAt'>> {
    const aheadS = await this.c.queue.aheadS();
    let allS = aheadS;
    for (const { expectedS } of traces) allS = allS === null || expectedS === null ? null : allS + expectedS;
    return { aheadS, doneAt: allS === null ? null : (this.c.queue.doneAt(allS)?.toISOString() ?? null) };
  }

  private budgetBytes(): number {
    return this.c.queue.nodes.mostBudgetBytes() ?? this.c.memoryBudgetBytes;
  }

  /** How long each trace will take: as it took before, or where that says little, as it was measured. */
  private async expectedTimes(
    p: Project,
    groups: readonly { readonly cells: readonly PlannedCell[] }[],
  ): Promise<(Expected | null)[]> {
    const costs = await renderCosts(this.c.db, p.id);
    const asked = groups.map(({ cells: [cell] }) => {
      const { profile, inputs, cameraId, variantId } = cell!;
      const part = croppedPx(frameSize(profile, inputs.camera), inputs.camera.crop);
      return { cameraId, variantId, profile, pixels: part.widthPx * part.heightPx };
    });
    const byRenders = asked.map((a) => expectedOf(costs, a));
    const unsure = asked.filter((_, i) => isUnsure(byRenders[i]!));
    const cells = [...new Map(unsure.map((a) => [cellKey(a), a])).values()].slice(0, MOST_ASKED_ABOUT);
    if (!cells.length) return byRenders;
    const found = await this.culls.costs(p, cells);
    const measured = new Map(cells.map((a, i) => [cellKey(a), found[i]!.pathS]));
    return asked.map((a) => expectedOf(costs, a, measured.get(cellKey(a)) ?? null));
  }

  /** One transaction: the batch, its traces, their promised outputs and their queue entries, or nothing. */
  async createBatch(projectId: string, request: PlanRequest): Promise<{ id: string; traces: number; cells: number }> {
    const known = request.orderId === undefined ? null : await this.batchOf(projectId, request.orderId);
    if (known) return known;
    const { profile, groups, plan, cells } = await this.work(projectId, request);
    if (request.planHash !== undefined && request.planHash !== plan.hash)
      throw new AppError(
        'PLAN_CHANGED',
        'What would be rendered has changed since the plan was shown. Nothing was queued.',
      );
    const fault = plan.errors[0];
    if (fault) throw new AppError('PLAN_HAS_ERRORS', fault.message);
    const batchId = request.orderId ?? randomUUID();
    const sequences = sequenceIds(groups);
    const traces = groups.map((g, i) => newTrace(g, plan.traces[i]!, sequences[i]!));
    try {
      await queueBatch(this.c, { id: batchId, projectId, profile }, traces);
    } catch (e) {
      // the same order, sent again while the first was on its way
      const same = request.orderId === undefined ? null : await this.batchOf(projectId, batchId);
      if (same) return same;
      throw e;
    }
    return { id: batchId, traces: groups.length, cells: cells.length };
  }

  /** A batch that was made by this order. @throws AppError INVALID where it is of another project */
  private async batchOf(
    projectId: string,
    orderId: string,
  ): Promise<{ id: string; traces: number; cells: number } | null> {
    const batch = await this.c.db.getRepository(Batches).findOneBy({ id: orderId });
    if (!batch) return null;
    if (batch.projectId !== projectId) throw new AppError('INVALID', 'This order was made for another project.');
    const [counted] = await this.c.db.query<{ traces: number; cells: number }[]>(
      `SELECT count(*)::int traces, coalesce(sum(jsonb_array_length(cells)), 0)::int cells FROM trace WHERE batch_id = $1`,
      [orderId],
    );
    return { id: orderId, ...counted! };
  }
}

function newTrace(
  { cells, inputs: all, lightings }: PlannedGroup,
  planned: Plan['traces'][number],
  sequenceId: string | null,
): NewTrace {
  const first = cells[0]!;
  return {
    inputs: all,
    profile: first.profile,
    widthPx: planned.widthPx,
    heightPx: planned.heightPx,
    plannedBytes: planned.totalBytes + (planned.processBytes ?? 0),
    expectedS: planned.expectedS,
    frame: first.frame,
    sequenceId,
    cells: cells.map(
      ({ cameraId, variantId, cameraName, variantName, frame, version, path, inputs, hash, lighting }) => ({
        cameraId,
        variantId,
        cameraName,
        variantName,
        frame,
        version,
        path,
        inputs,
        hash,
        ...(lightings.length > 1 && { lighting }),
      }),
    ),
  };
}

const mb = (bytes: number): string => `${Math.ceil(bytes / 1e6).toLocaleString('en')} MB`;
const shortOfSpace = ({
  mostFileBytes: files,
  filmBytes,
  freeBytes,
}: Pick<Plan, 'mostFileBytes' | 'freeBytes' | 'filmBytes'>): string =>
  `The files take up to ${mb(files)} and a film that renders in slices up to ${mb(filmBytes)}, and ${mb(freeBytes)} are free beside what is kept free. When the disk is full, the queue waits for space.`;

/**
 * Of all that a person decides by: what is traced, from what, and to which files. What is wrong is refused by itself.
 */
function hashOf(
  profile: Profile,
  traces: Plan['traces'],
  cells: readonly PlannedCell[],
  warnings: Plan['warnings'],
): string {
  const files = cells.map((x) => [x.cameraId, x.variantId, x.frame, x.timelessPath]);
  const shown = traces.map(({ hash, profile: own, widthPx, heightPx, samples, droppedCount }) => [
    hash,
    [own, widthPx, heightPx, samples, droppedCount],
  ]);
  return sha256(new TextEncoder().encode(JSON.stringify([profile, shown, files, warnings])));
}

/** One list for lists of the same things. */
function oncePerList<T extends object>(): (list: readonly T[]) => readonly T[] {
  const numbers = new Map<T, number>();
  const known = new Map<string, readonly T[]>();
  return (list) => {
    const key = list.map((x) => numbers.get(x) ?? numbers.set(x, numbers.size).size - 1).join();
    const same = known.get(key) ?? list;
    known.set(key, same);
    return same;
  };
}
