// The board: for each cell the latest render, whether it is still what would be rendered now, and if not, what changed.
import { AppError, type Board, type BoardCell, type Project, type Render } from '@variscen/contract';
import { type Inputs, type ResolvedState, cellHash, differences, inputsOf, layersOf, type LookSources, resolve } from '@variscen/core/looks';
import { In } from 'typeorm';
import { type RenderRow, Renders, type TraceRow, Traces } from '../db/entities.ts';
import type { Context } from './context.ts';
import type { ProjectService } from './projects.ts';

export interface CellNow { readonly inputs: Inputs; readonly hash: string; readonly state: ResolvedState }

export class BoardService {
  constructor(private readonly c: Context, private readonly projects: ProjectService) {}

  /** State of one cell as it would be rendered now. */
  async cellsNow(p: Project, refs: readonly { cameraId: string; variantId: string }[]): Promise<CellNow[]> {
    if (!p.revision) throw new AppError('NO_SCENE', `“${p.name}” has no scene yet.`);
    const scene = await this.c.scenes.get(p.revision.sceneHash);
    return refs.map(({ cameraId, variantId }) => {
      const camera = p.cameras.find((x) => x.id === cameraId), variant = p.variants.find((x) => x.id === variantId);
      if (!camera || !variant) throw new AppError('NOT_FOUND', 'A chosen cell no longer exists.');
      const state = resolve(scene, layersOf(p as LookSources, variant, cameraId)), inputs = inputsOf(p.revision!.sceneHash, camera.settings, state);
      return { inputs, hash: cellHash(inputs), state };
    });
  }

  async board(projectId: string): Promise<Board> {
    const p = await this.projects.get(projectId);
    if (!p.revision) return { cells: [] };
    const refs = p.cameras.flatMap((k) => p.variants.map((v) => ({ cameraId: k.id, variantId: v.id }))), now = await this.cellsNow(p, refs);
    const latest = new Map<string, RenderRow>(), key = (r: { cameraId: string; variantId: string }) => `${r.cameraId} ${r.variantId}`;
    const rows = await this.c.db.getRepository(Renders).createQueryBuilder('r').distinctOn(['r.cameraId', 'r.variantId']).where('r.projectId = :projectId', { projectId }).orderBy({ 'r.cameraId': 'ASC', 'r.variantId': 'ASC', 'r.version': 'DESC' }).getMany();
    for (const r of rows) latest.set(key(r), r);
    const traces = new Map<string, TraceRow>();
    for (const t of await this.c.db.getRepository(Traces).find({ where: { projectId, state: In(['waiting', 'rendering', 'failed']) }, order: { createdAt: 'ASC', ordinal: 'ASC' } })) for (const cell of t.cells) traces.set(key(cell), t);
    return {
      cells: refs.map((ref, i): BoardCell => {
        const variant = p.variants.find((v) => v.id === ref.variantId)!, render = latest.get(key(ref)), found = traces.get(key(ref)), { hash, inputs, state } = now[i]!;
        // a failure counts until something newer was rendered
        const trace = found && (found.state !== 'failed' || !render || render.createdAt < found.createdAt) ? found : undefined;
        const status = variant.excludedCameraIds.includes(ref.cameraId) ? 'excluded' : trace ? (trace.state as 'waiting' | 'rendering' | 'failed') : !render ? 'never' : render.hash === hash ? 'current' : 'outdated';
        return {
          ...ref, status, hash, render: render ? renderOf(render) : null, differences: render && render.hash !== hash ? differences(render.inputs, inputs, state) : [],
          trace: trace ? { id: trace.id, fraction: trace.fraction, samplesDone: trace.samplesDone, previewVersion: this.c.queue.previewVersion(trace.id), error: trace.error } : null,
        };
      }),
    };
  }

  async history(projectId: string, cameraId: string, variantId: string): Promise<Render[]> {
    return (await this.c.db.getRepository(Renders).find({ where: { projectId, cameraId, variantId }, order: { version: 'DESC' } })).map(renderOf);
  }
}

export const renderOf = (r: RenderRow): Render => ({
  id: r.id, cameraId: r.cameraId, variantId: r.variantId, version: r.version, hash: r.hash, profile: r.profile, widthPx: r.widthPx, heightPx: r.heightPx, files: r.files, createdAt: r.createdAt.toISOString(),
  samples: r.result.samples, seconds: r.result.seconds, rays: r.result.rays, plannedBytes: r.result.plannedBytes, peakBytes: r.result.peakBytes, droppedObjects: r.result.droppedObjects,
});
