// What a camera may leave out or simplify so that its pictures fit in the budget: tried from what changes them least
// on.
import { AppError, type Fit, type FitAnswer, type FitRequest } from '@variscen/contract';
import type { CullAsked } from '@variscen/core/cull';
import { type ProfileException, frameSize, profileFor } from '@variscen/core/plan';
import { picturesAt } from '@variscen/core/scene';
import { runTask } from '../work/run.ts';
import type { PlannedTrace } from '../work/tasks.ts';
import { asChanges } from './asChanges.ts';
import type { Context } from './context.ts';
import type { CullService } from './cull.ts';
import { lastTraces, restBytes } from './measured.ts';
import type { ProfileService } from './profiles.ts';
import type { ProjectService } from './projects.ts';

type May = Pick<CullAsked, 'barShare' | 'simplifies'>;
/** What no ray met goes first, then the rest is simplified, then what gives least goes. */
const TRIED: readonly May[] = [
  { barShare: 0, simplifies: false },
  { barShare: 0, simplifies: true },
  ...[0.0005, 0.001, 0.0025, 0.005, 0.01, 0.02, 0.05].map((barShare) => ({ barShare, simplifies: true })),
];

export class FitService {
  constructor(
    private readonly c: Context,
    private readonly projects: ProjectService,
    private readonly profiles: ProfileService,
    private readonly culls: CullService,
  ) {}

  /** @throws AppError NOT_FOUND, NO_SCENE */
  async find(projectId: string, request: FitRequest, signal: AbortSignal): Promise<FitAnswer> {
    const { cameraId, variantIds } = request;
    const p = await this.projects.get(projectId);
    const profile = await this.profiles.find(p, request.profileId);
    const camera = p.cameras.find((x) => x.id === cameraId);
    if (!camera) throw new AppError('NOT_FOUND', 'There is no such camera.');
    for (const variantId of variantIds) await this.culls.measure(projectId, { cameraId, variantId }, signal);
    const kept = await this.culls.plan(projectId, cameraId);
    const decided = { keep: kept?.keep ?? [], leaveOut: kept?.leaveOut ?? [] };
    const frame = picturesAt(camera.handling.frames)[0]!;
    const refs = variantIds.map((variantId) => ({ cameraId, variantId, frame }));
    const { cells, notSound } = await this.c.looks.ask({ kind: 'cells', projectId, refs });
    const looks = cells.map(({ inputs }, i) => {
      const own = profileFor(profile, p.exceptions as readonly ProfileException[], refs[i]!);
      return { profile: own, inputs, changes: asChanges(inputs.values), ...frameSize(own, inputs.camera) };
    });
    const done = await lastTraces(this.c.db);
    const budgetBytes = this.c.queue.nodes.mostBudgetBytes() ?? this.c.memoryBudgetBytes;
    const planned = async (cull: Awaited<ReturnType<CullService['cullFor']>> | undefined, may: May): Promise<Fit> => {
      const traces = looks.map(({ inputs, ...look }) => ({
        ...look,
        camera: cull === undefined ? inputs.camera : { ...inputs.camera, cull: cull ?? undefined },
      }));
      const task = {
        kind: 'plan',
        assets: this.c.assetsFolder,
        sceneHash: p.revision!.sceneHash,
        threads: this.c.queue.nodes.threads(),
        budgetBytes,
        processRestBytes: restBytes(done, this.c.queue.nodes.restBytes()),
        notSound: notSound.map((x) => x.hash),
        traces,
      } as const;
      return fitOf(await runTask(task, undefined, signal), may);
    };
    const now = await planned(undefined, { barShare: kept?.barShare ?? null, simplifies: kept?.simplifies ?? false });
    const tried: Fit[] = [];
    for (const may of TRIED) {
      const cull = await this.culls.cullFor(p, cameraId, variantIds, { ...decided, ...may }, signal);
      tried.push(await planned(cull, may));
      if (tried.at(-1)!.fits) break;
    }
    return { budgetBytes, now, tried };
  }
}

/** Of the look that takes most. */
function fitOf(looks: readonly PlannedTrace[], may: May): Fit {
  const bytesOf = (t: PlannedTrace) => t.totalBytes + t.turnsBytes + (t.processBytes ?? 0);
  const most = (of: (t: PlannedTrace) => number) => Math.max(0, ...looks.map(of));
  return {
    ...may,
    bytes: most(bytesOf),
    fits: looks.every((t) => t.turnsBytes === 0 && t.refusal === null),
    leftOut: most((t) => t.droppedCount),
    simplified: most((t) => t.simplifiedCount),
  };
}
