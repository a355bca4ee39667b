// From selected cells to traces, memory, names and clashes; and from a faultless plan to a batch in the queue.
import { randomUUID } from 'node:crypto';
import { AppError, type Plan, type PlanRequest } from '@variscen/contract';
import { LOST_WITH_DROPPED } from '@variscen/core/cull';
import type { Change, Inputs } from '@variscen/core/looks';
import { croppedPx } from '@variscen/core/scene';
import { PROFILES, findClashes, frameSize, groupCells, renderName } from '@variscen/core/plan';
import { In } from 'typeorm';
import { Batches, Outputs, Traces } from '../db/entities.ts';
import { runTask } from '../work/run.ts';
import type { Context } from './context.ts';
import { isTaken } from './edits.ts';
import { lastTraces, pixelSamplesPerSecond, restBytes } from './measured.ts';
import type { ProjectService } from './projects.ts';

interface PlannedCell {
  readonly cameraId: string;
  readonly variantId: string;
  readonly cameraName: string;
  readonly variantName: string;
  readonly inputs: Inputs;
  readonly hash: string;
  readonly traceHash: string;
  readonly version: number;
  readonly path: string;
}
const EXTENSIONS = ['.exr', '.png'] as const;

export class PlanService {
  constructor(
    private readonly c: Context,
    private readonly projects: ProjectService,
  ) {}

  async plan(projectId: string, request: PlanRequest): Promise<Plan> {
    return (await this.work(projectId, request)).plan;
  }

  private async work(projectId: string, request: PlanRequest) {
    const p = await this.projects.get(projectId);
    const profile = PROFILES.find((x) => x.id === request.profileId);
    if (!profile) throw new AppError('INVALID', `There is no profile “${request.profileId}”.`);
    const refs = [...new Map(request.cells.map((x) => [`${x.cameraId} ${x.variantId}`, x])).values()];
    const now = await this.c.looks.ask({ kind: 'cells', projectId, refs });
    const versions = await this.nextVersions(refs);
    const at = this.c.now().toISOString();
    const facetNames = (variantId: string, facet: string) =>
      p.variants
        .find((v) => v.id === variantId)!
        .optionIds.map((id) => p.options.find((o) => o.id === id))
        .filter((o) => o?.facet === facet)
        .map((o) => o!.name)
        .join('-');
    const errors: { message: string; path: string | null }[] = [];
    const said = new Set<string>();
    const cells = refs.map((ref, i): PlannedCell => {
      const camera = p.cameras.find((x) => x.id === ref.cameraId)!;
      const variant = p.variants.find((x) => x.id === ref.variantId)!;
      const version = versions.get(`${ref.cameraId} ${ref.variantId}`) ?? 1;
      const size = frameSize(profile, camera.settings);
      if (variant.excludedCameraIds.includes(ref.cameraId))
        errors.push({ message: `“${variant.name}” leaves out the camera “${camera.name}”.`, path: null });
      const name = {
        project: p.name,
        camera: camera.name,
        variant: variant.name,
        lighting: facetNames(variant.id, 'lighting'),
        environment: facetNames(variant.id, 'environment'),
        materials: facetNames(variant.id, 'materials'),
        visibility: facetNames(variant.id, 'visibility'),
        placement: facetNames(variant.id, 'placement'),
        grade: facetNames(variant.id, 'grade'),
        profile: profile.name,
        version,
        ...size,
        at,
      };
      return {
        ...ref,
        cameraName: camera.name,
        variantName: variant.name,
        inputs: now[i]!.inputs,
        hash: now[i]!.hash,
        traceHash: now[i]!.traceHash,
        version,
        path: renderName(p.nameTemplate, name),
      };
    });
    const reserved = new Set((await this.reservedPaths(cells.map((x) => x.path))).map((x) => x.toLowerCase()));
    const taken = (path: string) =>
      reserved.has(path.toLowerCase()) || EXTENSIONS.some((e) => this.c.output.exists(path + e));
    for (const clash of findClashes(
      cells.map((x) => ({ path: x.path, owner: `${x.cameraName} in ${x.variantName}` })),
      taken,
      p.nameTemplate,
    )) {
      errors.push({
        path: `${clash.path}.exr`,
        message:
          clash.owners.length > 1
            ? `${clash.owners.length} cells would write “${clash.path}.exr”: ${clash.owners.join(' and ')}. Use for example the template ${clash.suggestion}`
            : `“${clash.path}.exr” is already there or promised, and nothing is overwritten. Use for example the template ${clash.suggestion}`,
      });
    }
    const groups = groupCells(cells);
    const threads = this.c.queue.nodes.threads();
    const done = await lastTraces(this.c.db);
    const planned = await runTask({
      kind: 'plan',
      assets: this.c.assetsFolder,
      sceneHash: p.revision!.sceneHash,
      threads,
      budgetBytes: this.c.memoryBudgetBytes,
      processRestBytes: restBytes(done, this.c.queue.nodes.restBytes()),
      profile,
      traces: groups.map((g) => ({
        camera: g.cells[0]!.inputs.camera,
        changes: asChanges(g.cells[0]!.inputs),
        ...frameSize(profile, g.cells[0]!.inputs.camera),
      })),
    });
    const rate = pixelSamplesPerSecond(done, projectId);
    const traces = groups.map((g, i) => {
      const size = frameSize(profile, g.cells[0]!.inputs.camera);
      const part = croppedPx(size, g.cells[0]!.inputs.camera.crop);
      const { refusal, limited, trapped, ...memory } = planned[i]!;
      for (const name of limited)
        said.add(
          `The displacement of “${name}” is coarser than wanted for ${g.cells[0]!.cameraName}: it ends at ${profile.displacement.maxTriangles.toLocaleString('en')} triangles.`,
        );
      for (const { lamp, glass } of trapped)
        said.add(
          `“${lamp}” lights nothing outside “${glass}”: the light of a lamp of no size does not get through clear glass with a volume. Give the lamp a radius, or let it cast no shadow.`,
        );
      if (refusal) errors.push({ message: `${g.cells[0]!.cameraName}: ${refusal}`, path: null });
      return {
        hash: g.hash,
        cells: g.cells.map(({ cameraId, variantId, version, path }) => ({
          cameraId,
          variantId,
          version,
          path,
          files: EXTENSIONS.map((e) => path + e),
        })),
        ...size,
        samples: profile.samples,
        ...memory,
        dropped: [...memory.dropped],
        expectedS:
          rate === null
            ? null
            : Math.min(profile.timeLimitS ?? Infinity, (part.widthPx * part.heightPx * profile.samples) / rate),
      };
    });
    if (traces.some((t) => t.droppedCount > 0)) said.add(LOST_WITH_DROPPED);
    return { p, profile, cells, groups, plan: { profile, traces, errors, warnings: [...said] } satisfies Plan };
  }

  /** One transaction: the batch, its traces, their promised outputs and their queue entries, or nothing. */
  async createBatch(projectId: string, request: PlanRequest): Promise<{ id: string; traces: number; cells: number }> {
    const { profile, groups, plan, cells } = await this.work(projectId, request);
    const fault = plan.errors[0];
    if (fault) throw new AppError('PLAN_HAS_ERRORS', fault.message);
    const batchId = randomUUID();
    const now = this.c.now();
    await this.c.db
      .transaction(async (m) => {
        await m.insert(Batches, { id: batchId, projectId, profile, createdAt: now });
        for (const [ordinal, g] of groups.entries()) {
          const planned = plan.traces[ordinal]!;
          const id = randomUUID();
          await m.insert(Traces, {
            id,
            batchId,
            projectId,
            ordinal,
            state: 'waiting',
            inputs: g.cells[0]!.inputs,
            profile,
            widthPx: planned.widthPx,
            heightPx: planned.heightPx,
            plannedBytes: planned.totalBytes + (planned.processBytes ?? 0),
            attempts: 0,
            fraction: 0,
            samplesDone: 0,
            createdAt: now,
            cells: g.cells.map(({ cameraId, variantId, cameraName, variantName, version, path, inputs, hash }) => ({
              cameraId,
              variantId,
              cameraName,
              variantName,
              version,
              path,
              inputs,
              hash,
            })),
          });
          await m.insert(
            Outputs,
            g.cells.map((x) => ({
              id: randomUUID(),
              traceId: id,
              cameraId: x.cameraId,
              variantId: x.variantId,
              version: x.version,
              path: x.path,
            })),
          );
          await this.c.queue.enqueue(m, id);
        }
      })
      .catch((e: unknown) => {
        throw isTaken(e)
          ? new AppError(
              'WRONG_STATE',
              'Another batch with the same cells was queued at the same moment.',
              'Look at the board, then render again if it is still needed.',
            )
          : e;
      });
    this.c.events.emit({ type: 'queue' });
    this.c.events.emit({ type: 'project', projectId });
    return { id: batchId, traces: groups.length, cells: cells.length };
  }

  private async nextVersions(refs: readonly { cameraId: string; variantId: string }[]): Promise<Map<string, number>> {
    const rows = await this.c.db
      .getRepository(Outputs)
      .createQueryBuilder('o')
      .select('o.camera_id', 'camera')
      .addSelect('o.variant_id', 'variant')
      .addSelect('max(o.version)', 'last')
      .where({ cameraId: In([...new Set(refs.map((r) => r.cameraId))]) })
      .groupBy('o.camera_id')
      .addGroupBy('o.variant_id')
      .getRawMany<{ camera: string; variant: string; last: number }>();
    return new Map(rows.map((r) => [`${r.camera} ${r.variant}`, Number(r.last) + 1]));
  }
  private async reservedPaths(paths: readonly string[]): Promise<string[]> {
    return (
      await this.c.db.query<{ path: string }[]>('SELECT path FROM output WHERE lower(path) = ANY($1)', [
        paths.map((x) => x.toLowerCase()),
      ])
    ).map((r) => r.path);
  }
}

export const asChanges = (i: Inputs): Change[] =>
  i.values.map(([target, property, value]) => ({ target, property, value }));
