// What the Cull place shows and does: the plan of a camera, what was measured of it, and what it comes to.
import type { Camera, CullRequest, Project, Variant } from '@variscen/contract';
import { type CullAsked, type CullEvidence, type CullPlan, candidatesOf, letGo } from '@variscen/core/cull';
import { type ResolvedState, type SceneIndex, propertyOf } from '@variscen/core/looks';
import type { CameraSettings } from '@variscen/core/scene';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useMemo, useRef, useState } from 'react';
import { call } from '../../api/client.ts';
import { keys, setProject } from '../../api/queries.ts';
import { useProgress } from '../../api/progress.ts';
import { culledBy } from '../../engine/culled.ts';
import type { Culled } from '../../engine/messages.ts';
import { type CullEvidenceIndex, type CullRow, cullRows, indexed } from '../../model/cullTable.ts';
import { sayError } from '../../ui/notify.ts';

const NOTHING: CullAsked = { barShare: null, keep: [], leaveOut: [] };
/** A list is tried so long after the slider was moved last. */
const SETTLED_MS = 60;

export interface Measured {
  readonly known: CullEvidenceIndex | null;
  readonly measuredVariantIds: readonly string[];
  readonly unmeasuredVariantIds: readonly string[];
}
export interface CullState {
  readonly asked: CullAsked;
  readonly plan: CullPlan | null;
  readonly measured: Measured | undefined;
  readonly culled: Culled | undefined;
  readonly rows: readonly CullRow[];
  /** 0…1 while a look is taken; null: none is. */
  readonly looking: number | null;
  /** As the slider is moved. */
  readonly tryBar: (barShare: number | null) => void;
  readonly keepAsked: (asked: CullAsked, cameraIds?: readonly string[]) => void;
  readonly measure: (variantIds: readonly string[]) => void;
  readonly stop: () => void;
}

interface Shown {
  readonly project: Project;
  readonly index: SceneIndex | undefined;
  readonly state: ResolvedState | undefined;
  readonly camera: Camera;
  readonly variant: Variant;
}

export function useCull({ project, index, state, camera, variant }: Shown): CullState {
  const plan = usePlan(project, camera);
  const measured = useMeasured(project, camera);
  const kept = useMemo((): CullAsked => (plan ? askedOf(plan) : NOTHING), [plan]);
  const [tried, setTried] = useState<{ of: CullAsked; barShare: number | null } | null>(null);
  // what is tried holds until the plan has been made of it
  const asked = tried?.of === kept ? { ...kept, barShare: tried.barShare } : kept;
  const { barShare } = asked;
  const known = measured?.known ?? null;
  const byEvidence = useMemo(
    () => namedNow(index, known?.evidence, kept, barShare, plan),
    [index, known, kept, barShare, plan],
  );
  const culled = useCulled(project, state, camera, kept, byEvidence);
  const rows = useMemo(
    () => (index && culled ? cullRows(index.document, culled.verdicts, known, kept) : []),
    [index, culled, known, kept],
  );
  const looks = useLooks(project, camera, variant);
  const client = useQueryClient();
  const keepAsked = (next: CullAsked, cameraIds: readonly string[] = [camera.id]) => {
    setTried({ of: kept, barShare: next.barShare });
    const body: CullRequest = { ...mutable(next), cameraIds: [...cameraIds] };
    call('setCullPlan', { params: { projectId: project.id }, body })
      .then((p) => setProject(client, p))
      .catch((e: unknown) => {
        setTried(null);
        sayError(e);
      });
  };
  return {
    asked,
    plan,
    measured,
    culled,
    rows,
    looking: looks.fraction,
    tryBar: (next) => setTried({ of: kept, barShare: next }),
    keepAsked,
    measure: looks.measure,
    stop: looks.stop,
  };
}
const askedOf = ({ barShare, keep, leaveOut }: CullPlan): CullAsked => ({ barShare, keep, leaveOut });
const mutable = ({ barShare, keep, leaveOut }: CullAsked) => ({
  barShare,
  keep: [...keep],
  leaveOut: [...leaveOut],
});

/** What the plan names; while another bar is tried, what it would. */
function namedNow(
  index: SceneIndex | undefined,
  evidence: CullEvidence | undefined,
  kept: CullAsked,
  barShare: number | null,
  plan: CullPlan | null,
): readonly string[] {
  if (barShare === null) return [];
  if (plan && barShare === plan.barShare) return plan.byEvidence;
  if (!index || !evidence) return [];
  return letGo(candidatesOf(evidence, index.document, new Set([...kept.keep, ...kept.leaveOut])), barShare);
}

function usePlan(project: Project, camera: Camera): CullPlan | null {
  const hash = camera.settings.cull?.plan;
  const { data } = useQuery({
    queryKey: [...keys.project(project.id), 'cull', camera.id, hash ?? ''],
    enabled: hash !== undefined,
    staleTime: Infinity,
    queryFn: () => call('cullPlan', { params: { projectId: project.id, cameraId: camera.id } }),
  });
  return hash === undefined ? null : ((data?.plan as CullPlan | undefined) ?? null);
}

/** Asked for again whenever the project changes: an edit may make it another's. */
function useMeasured(project: Project, camera: Camera): Measured | undefined {
  const { data } = useQuery({
    queryKey: [...keys.project(project.id), 'evidence', camera.id, project.history.last],
    structuralSharing: false,
    placeholderData: (before, query) => (query?.queryKey[3] === camera.id ? before : undefined),
    queryFn: () => call('knownEvidence', { params: { projectId: project.id }, query: { cameraId: camera.id } }),
  });
  return useMemo(
    () =>
      data && {
        known: data.evidence ? indexed(data.evidence as CullEvidence) : null,
        measuredVariantIds: data.measuredVariantIds,
        unmeasuredVariantIds: data.unmeasuredVariantIds,
      },
    [data],
  );
}

/** Verdicts and memory, worked out beside the page. What was last known is shown until the next is there. */
function useCulled(
  project: Project,
  state: ResolvedState | undefined,
  camera: Camera,
  { keep, leaveOut }: CullAsked,
  byEvidence: readonly string[],
): Culled | undefined {
  const [culled, setCulled] = useState<{ readonly of: string; readonly is: Culled }>();
  const sceneHash = project.revision?.sceneHash;
  useEffect(() => {
    if (!state || sceneHash === undefined) return;
    const stop = new AbortController();
    const changes = [...state.values.values()]
      .filter((v) => propertyOf(v.property.id)?.facet !== 'grade')
      .map((v) => ({ target: v.target, property: v.property.id, value: v.value }));
    const wish = {
      sceneHash,
      changes,
      camera: camera.settings as CameraSettings,
      keep,
      byHand: leaveOut,
      byEvidence,
    };
    const settled = setTimeout(() => {
      culledBy(wish, stop.signal)
        .then((is) => setCulled({ of: camera.id, is }))
        .catch((e: unknown) => {
          if (!stop.signal.aborted) sayError(e);
        });
    }, SETTLED_MS);
    return () => {
      clearTimeout(settled);
      stop.abort(new Error('Another list is tried.'));
    };
  }, [sceneHash, state, camera.id, camera.settings, keep, leaveOut, byEvidence]);
  return culled?.of === camera.id ? culled.is : undefined;
}

/** Looks at what the camera needs, one variant after another. */
function useLooks(project: Project, camera: Camera, variant: Variant) {
  const client = useQueryClient();
  const running = useRef<AbortController | null>(null);
  const [at, setAt] = useState<{ readonly variantId: string; readonly done: number; readonly of: number } | null>(null);
  const own = useProgress((s) => s.looks[`${camera.id} ${at?.variantId ?? variant.id}`] ?? 0);
  useEffect(() => () => running.current?.abort(), [camera.id]);
  const measure = async (variantIds: readonly string[]) => {
    const stop = new AbortController();
    running.current?.abort();
    running.current = stop;
    try {
      for (const [done, variantId] of variantIds.entries()) {
        setAt({ variantId, done, of: variantIds.length });
        const body = { cameraId: camera.id, variantId };
        await call('measureEvidence', { params: { projectId: project.id }, body, signal: stop.signal });
        await client.invalidateQueries({ queryKey: [...keys.project(project.id), 'evidence'] });
      }
    } catch (e) {
      if (!stop.signal.aborted) sayError(e);
    } finally {
      if (running.current === stop) {
        running.current = null;
        setAt(null);
      }
    }
  };
  return {
    fraction: at ? (at.done + own) / at.of : null,
    measure: (ids: readonly string[]) => void measure(ids),
    stop: () => running.current?.abort(),
  };
}
