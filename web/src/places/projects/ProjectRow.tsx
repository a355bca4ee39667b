// A project in the list: its latest picture, what is in it, how much of it is up to date.
import { useInViewport } from '@mantine/hooks';
import type { ProjectSummary } from '@variscen/contract';
import dayjs from 'dayjs';
import { Link } from 'react-router';
import { pathOf } from '../../api/client.ts';
import { useCellCounts } from '../../api/queries.ts';
import { count } from '../../ui/format.ts';
import styles from './ProjectsPlace.module.css';

interface Props {
  project: ProjectSummary;
  onLately: () => void;
  onCleanUp: () => void;
  onDelete: () => void;
}
export function ProjectRow({ project: p, onLately, onCleanUp, onDelete }: Props) {
  return (
    <tr>
      <td>
        {p.coverRenderId !== null && (
          <img
            src={pathOf('renderFile', { renderId: p.coverRenderId, kind: 'thumbnail' })}
            alt={`Latest render of ${p.name}`}
            loading="lazy"
            className={styles.cover}
          />
        )}
      </td>
      <td>
        <Link to={`/projects/${p.id}/${p.hasScene ? 'board' : 'scene'}`} className={styles.name}>
          {p.name}
        </Link>
      </td>
      <td className="n">{count(p.cameras)}</td>
      <td className="n">{count(p.variants)}</td>
      <td className="n">{count(p.renders)}</td>
      <td className="n">{p.hasScene && <UpToDate projectId={p.id} />}</td>
      <td>
        <button
          type="button"
          className={`mono dim ${styles.changed}`}
          onClick={onLately}
          aria-label={`What was done lately in ${p.name}`}
          title="What was done lately"
        >
          {dayjs(p.changedAt).format('D MMM YYYY HH:mm')}
        </button>
      </td>
      <td>
        {p.hasScene ? (
          <Link className="dim" to={`/projects/${p.id}/scene`}>
            Report and revisions
          </Link>
        ) : (
          <Link to={`/projects/${p.id}/scene`} className={styles.importAScene}>
            Import a scene…
          </Link>
        )}
      </td>
      <td className={styles.cell}>
        {p.renders > 0 && (
          <button
            type="button"
            className={`quiet ${styles.quiet} ${styles.cleanUp}`}
            onClick={onCleanUp}
            aria-label={`Clean up older pictures of ${p.name}`}
          >
            Clean up…
          </button>
        )}
        <button
          type="button"
          className={`quiet ${styles.quiet}`}
          onClick={onDelete}
          aria-label={`Delete project ${p.name}`}
        >
          Delete…
        </button>
      </td>
    </tr>
  );
}

/** Worked out by the server from all that a picture is made of, so only for projects that somebody looks at. */
function UpToDate({ projectId }: { projectId: string }) {
  const { ref, inViewport } = useInViewport<HTMLSpanElement>();
  const { data, isError } = useCellCounts(projectId, inViewport);
  const words = data ? `${count(data.current)} of ${count(data.total)}` : '…';
  return (
    <span ref={ref} title={data && `${count(data.current)} of ${count(data.total)} cells are up to date`}>
      {isError ? 'not known' : words}
    </span>
  );
}
