// What the Cull place shows and does: the plan of a camera, what was measured of it, and what it comes to.
import type { Camera, CullRequest, Project, Variant } from '@variscen/contract';
import { type CullAsked, type CullEvidence, type CullPlan, NO_PIECES, leftOutFor } from '@variscen/core/cull';
import type { ResolvedState, SceneIndex } from '@variscen/core/looks';
import type { CameraSettings } from '@variscen/core/scene';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useMemo, useRef, useState } from 'react';
import { call, download } from '../../api/client.ts';
import { cullPlanQuery, useCullPlan } from '../../api/cullPlan.ts';
import { useProgress } from '../../api/progress.ts';
import { cullWish, culledBy } from '../../engine/culled.ts';
import type { Culled } from '../../engine/messages.ts';
import { type CullEvidenceIndex, type CullRow, cullRows, indexed } from '../../model/cullTable.ts';
import { useSession } from '../../session/projectSession.ts';
import { sayError } from '../../ui/notify.ts';

const NOTHING: CullAsked = { barShare: null, keep: [], leaveOut: [], simplifies: false };
type Named = Pick<CullPlan, 'byEvidence' | 'pieces'>;
const NOTHING_NAMED: Named = { byEvidence: [], pieces: NO_PIECES };
const NO_STAND_INS: CullPlan['standIns'] = {};
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
  /** Meshes are being simplified for what is asked. */
  readonly isSimplifying: boolean;
  readonly measured: Measured | undefined;
  readonly culled: Culled | undefined;
  readonly rows: readonly CullRow[];
  /** What is left out of the meshes of what stays. */
  readonly pieces: CullPlan['pieces'];
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
  const plan = useCullPlan(project.id, camera);
  const measured = useMeasured(project, camera);
  const { draft, isKeeping, tryAsked, keepAsked } = useDraft(project, camera, plan === undefined);
  const kept = useMemo((): CullAsked => (plan ? askedOf(plan) : NOTHING), [plan]);
  const asked = draft ?? kept;
  const known = measured?.known ?? null;
  const named = useMemo(
    () => (draft || !plan ? namedNow(index, known?.evidence, asked) : plan),
    [index, known, asked, draft, plan],
  );
  // while something else is tried those of the plan are shown: which others there will be is found out by making them
  const standIns = asked.simplifies && plan ? plan.standIns : NO_STAND_INS;
  const culled = useCulled(project, state, camera, asked, named, standIns);
  const rows = useMemo(
    () =>
      index && culled ? cullRows(index.document, culled.verdicts, known, asked, standIns, named.pieces.meshes) : [],
    [index, culled, known, asked, standIns, named],
  );
  const looks = useLooks(project, camera, variant);
  return {
    asked,
    plan: plan ?? null,
    isSimplifying: isKeeping && draft?.simplifies === true,
    measured,
    culled,
    rows,
    pieces: named.pieces,
    looking: looks.fraction,
    tryBar: (barShare) => tryAsked({ ...asked, barShare }),
    keepAsked,
    measure: looks.measure,
    stop: looks.stop,
  };
}

/**
 * What was decided and is not the plan yet: shown until it is. Decisions are sent one after another, so that of several
 * in a second none undoes another.
 */
function useDraft(project: Project, camera: Camera, isLoading: boolean) {
  const client = useQueryClient();
  const session = useSession(project.id);
  const [draft, setDraft] = useState<CullAsked | null>(null);
  const [isKeeping, setKeeping] = useState(false);
  const sent = useRef<Promise<void>>(Promise.resolve());
  const send = async (next: CullAsked, cameraIds: readonly string[]) => {
    const body: CullRequest = { ...mutable(next), cameraIds: [...cameraIds] };
    setKeeping(true);
    try {
      const p = await session.writeProject(() => call('setCullPlan', { params: { projectId: project.id }, body }));
      const hash = p?.cameras.find((c) => c.id === camera.id)?.settings.cull?.plan;
      if (hash !== undefined) await client.fetchQuery(cullPlanQuery(project.id, camera.id, hash));
    } catch (e) {
      sayError(e);
    } finally {
      setKeeping(false);
      setDraft((d) => (d === next ? null : d));
    }
  };
  // what is kept is not known yet: nothing may be put over it
  const isUnknown = isLoading && !draft;
  const tryAsked = (next: CullAsked) => {
    if (!isUnknown) setDraft(next);
  };
  const keepAsked = (next: CullAsked, cameraIds: readonly string[] = [camera.id]) => {
    if (isUnknown) return;
    if (cameraIds.includes(camera.id)) setDraft(next);
    sent.current = sent.current.then(() => send(next, cameraIds));
  };
  return { draft, isKeeping, tryAsked, keepAsked };
}
const askedOf = ({ barShare, keep, leaveOut, simplifies }: CullPlan): CullAsked => ({
  barShare,
  keep,
  leaveOut,
  simplifies,
});
const mutable = ({ barShare, keep, leaveOut, simplifies }: CullAsked) => ({
  barShare,
  simplifies,
  keep: [...keep],
  leaveOut: [...leaveOut],
});

/** What evidence would name, as it is asked now. */
function namedNow(index: SceneIndex | undefined, evidence: CullEvidence | undefined, asked: CullAsked): Named {
  if (!index || !evidence) return NOTHING_NAMED;
  return leftOutFor(asked, evidence, index.document);
}

const evidenceKey = (projectId: string) => ['evidence', projectId];

/** Asked for again whenever the project is edited: an edit may make it another's. */
function useMeasured(project: Project, camera: Camera): Measured | undefined {
  const { data } = useQuery({
    queryKey: [...evidenceKey(project.id), camera.id, project.history.last],
    structuralSharing: false,
    placeholderData: (before, query) => (query?.queryKey[2] === camera.id ? before : undefined),
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
  { byEvidence, pieces }: Named,
  standIns: CullPlan['standIns'],
): Culled | undefined {
  const [culled, setCulled] = useState<{ readonly of: string; readonly is: Culled }>();
  const sceneHash = project.revision?.sceneHash;
  useEffect(() => {
    if (!state || sceneHash === undefined) return;
    const stop = new AbortController();
    const named = { keep, byHand: leaveOut, byEvidence, standIns, pieces: pieces.meshes };
    const wish = cullWish(sceneHash, state, camera.settings as CameraSettings, named);
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
  }, [sceneHash, state, camera.id, camera.settings, keep, leaveOut, byEvidence, pieces, standIns]);
  return culled?.of === camera.id ? culled.is : undefined;
}

/** Looks at what the camera needs, one variant after another. */
function useLooks(project: Project, camera: Camera, variant: Variant) {
  const client = useQueryClient();
  const running = useRef<AbortController | null>(null);
  const [at, setAt] = useState<{ readonly variantId: string; readonly done: number; readonly of: number } | null>(null);
  const began = useProgress((s) => s.take);
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
        began({ type: 'evidence', projectId: project.id, ...body, fraction: 0 });
        // megabytes that are asked for below, with what was measured of the other variants
        await download('measureEvidence', { params: { projectId: project.id }, body, signal: stop.signal });
        await client.invalidateQueries({ queryKey: evidenceKey(project.id) });
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
