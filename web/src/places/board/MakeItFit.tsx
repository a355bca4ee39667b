// Where pictures do not fit in the budget: what their cameras may leave out or simplify so that they do, to be taken or
// left.
import { useQueryClient } from '@tanstack/react-query';
import type { Fit, FitAnswer, Plan, Project } from '@variscen/contract';
import { percent as shareWords } from '@variscen/core/cull';
import { useEffect, useRef, useState } from 'react';
import { call } from '../../api/client.ts';
import { tooLarge } from '../../model/planFigures.ts';
import { useSession } from '../../session/projectSession.ts';
import { bytes, plural } from '../../ui/format.ts';
import { sayError } from '../../ui/notify.ts';
import styles from './PlanPanel.module.css';

type Over = ReturnType<typeof tooLarge>[number];
interface Proposal extends Over {
  readonly name: string;
  readonly answer: FitAnswer;
}

export function MakeItFit({ project, plan, profileId }: { project: Project; plan: Plan; profileId: string }) {
  const { at, proposals, find, use, stop } = useFits(project, profileId);
  const over = tooLarge(plan);
  if (at)
    return (
      <div role="status">
        Looking for what fits, camera {at.done + 1} of {at.of} …{' '}
        <button type="button" className="quiet" onClick={stop}>
          Stop
        </button>
      </div>
    );
  const shown = proposals.filter((p) => over.some((o) => o.cameraId === p.cameraId));
  const fitting = shown.filter((p) => fitOf(p).fits);
  if (!over.length) return null;
  if (!shown.length)
    return (
      <button
        type="button"
        className="quiet"
        title="What each camera needs is measured, where it was not. Nothing is changed before you say so."
        onClick={() => void find(over)}
      >
        Find what fits for {plural(over.length, 'camera')}
      </button>
    );
  return (
    <section aria-label="What fits" className={styles.stack}>
      {shown.map((p) => (
        <div key={p.cameraId}>
          <b>{p.name}</b>: {wordsOf(p)}
        </div>
      ))}
      {fitting.length > 0 && (
        <button type="button" className="quiet" onClick={() => void use(fitting)}>
          Use for {plural(fitting.length, 'camera')}
        </button>
      )}
    </section>
  );
}

/** The last that was tried: it fits, or none does. */
const fitOf = ({ answer }: Proposal): Fit => answer.tried.at(-1)!;

function wordsOf(p: Proposal): string {
  const { now, budgetBytes } = p.answer;
  const fit = fitOf(p);
  const which =
    fit.barShare === 0 ? 'that no ray met' : `that give least, up to ${shareWords(fit.barShare ?? 0)} of the light`;
  const simplified = fit.simplifies ? `, and with ${plural(fit.simplified, 'object')} simplified` : '';
  const room = `${bytes(fit.bytes)} instead of ${bytes(now.bytes)} without ${plural(fit.leftOut, 'object')} ${which}${simplified}`;
  if (fit.fits) return `${room}. The budget is ${bytes(budgetBytes)}.`;
  return `${room}, which is still over the budget of ${bytes(budgetBytes)}. It is loaded in turns, or the budget is raised.`;
}

function useFits(project: Project, profileId: string) {
  const client = useQueryClient();
  const session = useSession(project.id);
  const running = useRef<AbortController | null>(null);
  const [at, setAt] = useState<{ readonly done: number; readonly of: number } | null>(null);
  const [proposals, setProposals] = useState<readonly Proposal[]>([]);
  const params = { projectId: project.id };
  useEffect(() => () => running.current?.abort(), []);
  useEffect(() => setProposals([]), [profileId]);
  const find = async (over: readonly Over[]) => {
    const stop = new AbortController();
    running.current = stop;
    try {
      for (const [done, o] of over.entries()) {
        setAt({ done, of: over.length });
        const body = { cameraId: o.cameraId, variantIds: [...o.variantIds], profileId };
        const answer = await call('fitCull', { params, body, signal: stop.signal });
        const name = project.cameras.find((c) => c.id === o.cameraId)?.name ?? '';
        setProposals((before) => [...before.filter((p) => p.cameraId !== o.cameraId), { ...o, name, answer }]);
      }
      await client.invalidateQueries({ queryKey: ['plan'] }); // by what was measured it tells more
    } catch (e) {
      if (!stop.signal.aborted) sayError(e);
    } finally {
      setAt(null);
    }
  };
  const use = async (fitting: readonly Proposal[]) => {
    try {
      for (const p of fitting) {
        const { barShare, simplifies } = fitOf(p);
        const kept = (await call('cullPlan', { params: { ...params, cameraId: p.cameraId } })).plan;
        const { keep = [], leaveOut = [] } = kept ?? {};
        const cameras = { cameraIds: [p.cameraId], variantIds: [...p.variantIds] };
        const body = { ...cameras, barShare, simplifies, keep, leaveOut };
        if (!(await session.writeProject(() => call('setCullPlan', { params, body })))) return;
      }
    } catch (e) {
      sayError(e);
    }
  };
  return { at, proposals, find, use, stop: () => running.current?.abort() };
}
