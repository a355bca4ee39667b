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
  filesOfCell,
  frameSize,
  groupCells,
  isFirstInLight,
  mostFileBytes,
  pathOfFile,
  pathOfPicture,
  profileFor,
} from '@variscen/core/plan';
import { Batches } from '../db/entities/index.ts';
import { runTask } from '../work/run.ts';
import type { Context } from './context.ts';
import { lastTraces, restBytes } from './measured.ts';
import {
  damagedCullPlans,
  damagedFiles,
  excludedCells,
  tightRemark,
  turnsRemark,
  unknownValues,
  vanishedTargets,
} from './planRemarks.ts';
import { type NewTrace, queueBatch } from './newBatch.ts';
import { type PlannedCell, type PlannedGroup, oncePer, sharingOf, togetherIn } from './plannedGroups.ts';
import { PlannedNames } from './plannedNames.ts';
import type { ProfileService } from './profiles.ts';
import { type Expected, type RenderCost, expectedOf, inTurns, isUnsure, renderCosts } from './renderCosts.ts';
import { MOST_ASKED_ABOUT, isEndless, slowdowns } from './slowdowns.ts';
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
    const refs = picturesOf(p, request.cells);
    const profiles = refs.map((ref) => profileFor(profile, exceptions, ref));
    const [now, named] = await Promise.all([
      this.c.looks.ask({
        kind: 'cells',
        projectId,
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
    const errors = [...excludedCells(p, cells), ...unknownValues(cells, now.cells), ...named.faults];
    errors.push(...damagedFiles(cells, now.cells, now.notSound), ...damagedCullPlans(cells, now.notSound));
    const folder = profile.outputFolder ?? '';
    const fault = await this.c.output.faultOfFolder(folder);
    if (fault !== null) errors.push({ message: fault, path: null });
    const said = new Set(vanishedTargets(now.cells));
    const groups = togetherIn(groupCells(cells), cells, now.shared);
    const threads = this.c.queue.nodes.threads();
    const done = await lastTraces(this.c.db);
    const changesOf = oncePer((values: Inputs['values']) => asChanges(values));
    const lightingsOf = oncePerList<readonly Change[]>();
    const planned = await runTask(
      {
        kind: 'plan',
        assets: this.c.assetsFolder,
        sceneHash: p.revision!.sceneHash,
        threads,
        budgetBytes: this.budgetBytes(),
        processRestBytes: restBytes(done, this.c.queue.nodes.restBytes()),
        notSound: now.notSound.map((x) => x.hash),
        traces: groups.map(({ cells: [cell], inputs, lightings }) => ({
          profile: cell!.profile,
          camera: inputs.camera,
          changes: changesOf(inputs.values),
          ...(lightings.length > 1 && { lightings: lightingsOf(lightings.map((l) => changesOf(l.inputs.values))) }),
          ...frameSize(cell!.profile, inputs.camera),
        })),
      },
      undefined,
      signal,
    );
    const expectedTimes = await this.expectedTimes(p, groups, await renderCosts(this.c.db, projectId));
    const slower = await slowdowns(this.culls, p, groups, planned);
    const pixels: number[] = [];
    // what is so in every frame of a sequence is said of the first
    const told = new Set<string>();
    const isFirst = (cell: PlannedCell, what: string) => {
      const key = `${cellKey(cell)} ${what}`;
      return !told.has(key) && Boolean(told.add(key));
    };
    const traces = groups.map((g, i) => {
      const own = g.cells[0]!.profile;
      const excepted = exceptionsOf(exceptions, profile.id, g.cells[0]!);
      const size = frameSize(own, g.cells[0]!.inputs.camera);
      const part = croppedPx(size, g.cells[0]!.inputs.camera.crop);
      const { refusal: impossible, tight, partsBytes: _, ...about } = planned[i]!;
      const { limited, trapped, missing, unlit, isSeen, ...memory } = about;
      const times = slower[i]!;
      const refusal = impossible ?? (tight !== null && isEndless(times) ? tightRemark(tight, times) : null);
      const expected = inTurns(expectedTimes[i]!, times, own.timeLimitS);
      const first = g.cells[0]!;
      for (const dark of unlit.map((k) => g.lightings[k]!).filter((cell) => isFirst(cell, 'dark')))
        errors.push({
          message: `${whereOf(dark)}: nothing gives light, so the picture would be black. Switch a light on, or give it an environment.`,
          path: null,
        });
      const lit = g.lightings.find((_, k) => !unlit.includes(k));
      if (lit && !isSeen && isFirst(lit, 'empty'))
        said.add(`${whereOf(lit)}: the frame seems empty. Look through the camera on the Stage.`);
      pixels.push(part.widthPx * part.heightPx);
      for (const what of missing) errors.push({ message: `${g.cells[0]!.cameraName}: ${what}`, path: null });
      for (const name of limited)
        said.add(
          `The displacement of “${name}” is coarser than wanted for ${g.cells[0]!.cameraName}: it ends at ${own.displacement.maxTriangles.toLocaleString('en')} triangles.`,
        );
      for (const { lamp, glass } of trapped)
        said.add(
          `“${lamp}” lights nothing outside “${glass}”: the light of a lamp of no size does not get through clear glass with a volume. Give the lamp a radius, or let it cast no shadow.`,
        );
      if (times !== 1 && refusal === null) said.add(turnsRemark(first.cameraName, times));
      if (refusal) errors.push({ message: `${g.cells[0]!.cameraName}: ${refusal}`, path: null });
      return {
        hash: g.hash,
        cells: g.cells.map(({ cameraId, variantId, frame, version, path }, k) => ({
          cameraId,
          variantId,
          frame,
          version,
          path: pathOfPicture(path),
          files: shownFiles(own, isFirstInLight(g.cells, k)).map((file) => pathOfFile(path, file)),
        })),
        profile: excepted.length ? (own as Plan['profile']) : null,
        exceptions: [...new Set(excepted.flatMap((e) => Object.keys(e.settings)))],
        ...size,
        samples: own.samples,
        lightings: g.lightings.length,
        ...memory,
        slower: times,
        isRefused: refusal !== null,
        dropped: [...memory.dropped],
        expectedS: expected?.expectedS ?? null,
        expectedFrom: expected?.from ?? null,
      };
    });
    if (traces.some((t) => t.droppedCount > 0)) said.add(LOST_WITH_DROPPED);
    const aheadS = await this.c.queue.aheadS();
    const ownS = traces.reduce<number | null>(
      (n, t) => (n === null || t.expectedS === null ? null : n + t.expectedS),
      0,
    );
    const allS = aheadS === null || ownS === null ? null : aheadS + ownS;
    const lasting = [...said]; // what is free on the disk is another in a moment
    const mostBytes = groups.reduce(
      (n, g, i) =>
        n + g.cells.reduce((m, cell, k) => m + mostFileBytes(cell.profile, pixels[i]!, isFirstInLight(g.cells, k)), 0),
      0,
    );
    const freeBytes = await this.c.disk.usableBytes(await this.c.output.standing(folder));
    const filmBytes = Math.max(0, ...planned.map((t) => t.bytes.film));
    if (mostBytes + filmBytes > freeBytes) said.add(shortOfSpace(mostBytes, filmBytes, freeBytes));
    return {
      p,
      profile,
      cells,
      groups,
      plan: {
        hash: hashOf(profile, traces, cells, lasting),
        profile: profile as Plan['profile'],
        traces,
        mostFileBytes: mostBytes,
        freeBytes,
        filmBytes,
        aheadS,
        doneAt: allS === null ? null : (this.c.queue.doneAt(allS)?.toISOString() ?? null),
        errors: [...new Map(errors.map((e) => [e.message, e])).values()],
        warnings: [...said],
      } satisfies Plan,
    };
  }

  private budgetBytes(): number {
    return this.c.queue.nodes.mostBudgetBytes() ?? this.c.memoryBudgetBytes;
  }

  /** How long each trace will take: as it took before, or where that says little, as it was measured. */
  private async expectedTimes(
    p: Project,
    groups: readonly { readonly cells: readonly PlannedCell[] }[],
    costs: readonly RenderCost[],
  ): Promise<(Expected | null)[]> {
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

const whereOf = ({ cameraName, variantName, frame }: PlannedCell): string =>
  `${cameraName} in ${variantName}${frame === null ? '' : `, frame ${frame}`}`;

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
const shortOfSpace = (files: number, film: number, free: number): string =>
  `The files take up to ${mb(files)} and a film that renders in slices up to ${mb(film)}, and ${mb(free)} are free beside what is kept free. When the disk is full, the queue waits for space.`;

/** What a person sees among a cell's files. */
const shownFiles = (profile: Profile, first: boolean) =>
  filesOfCell(profile, first).filter((f) => f.kind !== 'thumbnail');

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
