// What is wrong with a plan, and what it warns of: a warning that is accepted stays folded away until it is another
// one.
import type { Plan, Project } from '@variscen/contract';
import { call } from '../../api/client.ts';
import { useSession } from '../../session/projectSession.ts';
import { plural } from '../../ui/format.ts';
import styles from './PlanPanel.module.css';

export function PlanRemarks({ plan, project }: { plan: Plan; project: Project }) {
  const session = useSession(project.id);
  const params = { projectId: project.id };
  const set = (warnings: readonly string[]) =>
    session.writeProject(() => call('acceptWarnings', { params, body: { warnings: [...warnings] } }));
  const { acceptedWarnings: known } = project;
  const isAccepted = (w: string) => known.includes(w);
  const accepted = plan.warnings.filter(isAccepted);
  return (
    <>
      {plan.errors.map((e, i) => (
        <div key={i} className="notice" role="alert">
          {e.message}
        </div>
      ))}
      {plan.warnings
        .filter((w) => !isAccepted(w))
        .map((w) => (
          <Warning key={w} text={w} does="Accept" onClick={() => void set([...known, w])} />
        ))}
      {accepted.length > 0 && (
        <details>
          <summary className="dim">{plural(accepted.length, 'accepted warning')}</summary>
          {accepted.map((w) => (
            <Warning key={w} text={w} does="Warn again" onClick={() => void set(known.filter((x) => x !== w))} />
          ))}
        </details>
      )}
    </>
  );
}

function Warning({ text, does, onClick }: { text: string; does: string; onClick: () => void }) {
  return (
    <div className={`dim ${styles.line}`}>
      <span>{text}</span>
      <button type="button" className="quiet" onClick={onClick}>
        {does}
      </button>
    </div>
  );
}
