// The scene of a project: what is in force, every revision with its report, and a newer file that waits to be looked
// at.
import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { Project, Revision } from '@variscen/contract';
import dayjs from 'dayjs';
import { useEffect, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { call } from '../../api/client.ts';
import { keys } from '../../api/queries.ts';
import { useSession } from '../../session/projectSession.ts';
import { count, plural } from '../../ui/format.ts';
import { say } from '../../ui/notify.ts';
import { BringScene } from './BringScene.tsx';
import { MatchPanel } from './MatchPanel.tsx';
import { Report } from './Report.tsx';
import styles from './ScenePlace.module.css';

export function ScenePlace({ project }: { project: Project }) {
  const client = useQueryClient();
  const session = useSession(project.id);
  const navigate = useNavigate();
  const revisions = useQuery({
    queryKey: ['revisions', project.id, project.revision?.id, project.offered?.id],
    queryFn: () => call('listRevisions', { params: { projectId: project.id } }),
  });
  const list = revisions.data ?? [];
  const [shownId, setShownId] = useState<string | null>(null);
  const offered = project.offered;
  const shown =
    list.find((r) => r.id === shownId) ??
    list.find((r) => r.id === offered?.id) ??
    list.find((r) => r.id === project.revision?.id);
  useEffect(() => {
    if (offered) setShownId(offered.id);
  }, [offered?.id]);
  const refresh = async () => {
    await client.invalidateQueries({ queryKey: keys.project(project.id) });
    await client.invalidateQueries({ queryKey: ['revisions', project.id] });
  };
  const use = async (r: Revision) => {
    const params = { projectId: project.id, revisionId: r.id };
    const used = await session.writeProject(() => call('useRevision', { params }));
    if (used) say(`Revision ${r.number} is current again`, 'Ctrl+Z goes back.');
  };
  return (
    <>
      <header className="sentence">
        {project.revision ? (
          <>
            The scene of <b className="pick ellipsis">{project.name}</b> is{' '}
            <b className="pick">revision {project.revision.number}</b>, from{' '}
            <b className="pick ellipsis">{project.revision.report.fileName}</b>.
            {offered && ` Revision ${offered.number} waits for you.`}
          </>
        ) : (
          <>“{project.name}” has no scene yet.</>
        )}
        {project.revision && (
          <span className="right">
            <button
              type="button"
              className={`${offered ? 'quiet' : 'go'} ${styles.openTheStage}`}
              onClick={() => void navigate(`/projects/${project.id}/stage`)}
            >
              Open the stage
            </button>
          </span>
        )}
      </header>
      <main className={`place ${styles.place}`}>
        <nav aria-label="Revisions" className={styles.revisions}>
          {list.map((r) => (
            <button
              type="button"
              key={r.id}
              aria-pressed={r.id === shown?.id}
              onClick={() => setShownId(r.id)}
              className={styles.button}
            >
              <div className={styles.revisionName} data-on={r.id === project.revision?.id}>
                Revision {r.number}
                {r.id === project.revision?.id && ' · current'}
                {r.state === 'offered' && ' · waits'}
              </div>
              <div className={`dim ellipsis ${styles.fileName}`}>{r.report.fileName}</div>
              <div className={`faint mono ${styles.format}`}>{dayjs(r.createdAt).format('D MMM YYYY HH:mm')}</div>
            </button>
          ))}
          {list.length === 0 && !revisions.isPending && (
            <p className={`dim ${styles.noRevisionYet}`}>No revision yet.</p>
          )}
          {project.revision && (
            <Link to={`/projects/${project.id}/board`} className={`dim ${styles.goToThe}`}>
              Go to the board
            </Link>
          )}
        </nav>
        <div className={styles.state}>
          {shown?.state !== 'offered' && (
            <BringScene projectId={project.id} first={!project.revision} onDone={() => void refresh()} />
          )}
          {shown?.state === 'offered' && (
            <section aria-label="What it would do">
              <h2 className={styles.whatRevision}>What revision {shown.number} would do</h2>
              <MatchPanel
                key={shown.id}
                project={project}
                revision={shown}
                onDone={() => {
                  setShownId(null);
                  void refresh();
                }}
              />
            </section>
          )}
          {shown && (
            <section aria-label="Import report">
              <div className={styles.revisionHead}>
                <h2 className={styles.whatWasRead}>What was read of revision {shown.number}</h2>
                {shown.state === 'accepted' && shown.id !== project.revision?.id && (
                  <button type="button" className={`quiet ${styles.quiet}`} onClick={() => void use(shown)}>
                    Go back to this revision
                  </button>
                )}
              </div>
              {shown.match && (
                <p className={`dim ${styles.whenItCame}`}>
                  When it came in, {plural(shown.match.matched, 'object')} went on, {count(shown.match.moved)} had
                  moved, {count(shown.match.changed)} had changed, {count(shown.match.gone.length)} were gone and{' '}
                  {count(shown.match.addedCount)} were new.
                </p>
              )}
              <Report revision={shown} />
            </section>
          )}
        </div>
      </main>
    </>
  );
}
