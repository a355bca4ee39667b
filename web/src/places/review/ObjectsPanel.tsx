// What is at the place that was clicked, by the ids of the picture: each can be looked at alone, or selected on the
// Stage.
import { useQuery } from '@tanstack/react-query';
import type { Project } from '@variscen/contract';
import { objectTarget } from '@variscen/core/looks';
import { Link } from 'react-router';
import { ApiError, call } from '../../api/client.ts';
import type { Listed } from '../../model/review/strip.ts';
import type { Subject } from '../../model/review/subject.ts';
import { percent } from '../../ui/format.ts';
import styles from './ReviewSide.module.css';
import type { AskedAt, ReviewTools } from './useReviewTools.ts';

interface Props {
  readonly project: Project;
  readonly asked: AskedAt;
  readonly tools: ReviewTools;
}
/** Of any picture that is in sight, also of others' pictures where they have ids. */
export function ObjectsPanel({ project, asked, tools }: Props) {
  const { pictures } = tools.compared;
  const subject = pictures.find((s) => s.id === asked.renderId);
  if (!subject) return null;
  return <Here project={project} subject={subject} isNamed={pictures.length > 1} asked={asked} tools={tools} />;
}

interface HereProps extends Props {
  readonly subject: Subject;
  readonly isNamed: boolean;
}
function Here({ project, subject, isNamed, asked, tools }: HereProps) {
  const { data, error } = useObjectsAt(asked);
  return (
    <section className={styles.part} aria-label="What is here">
      <div className={styles.regionHead}>
        <h4>Here</h4>
        <button type="button" className={`quiet ${styles.small}`} onClick={() => tools.setAsked(null)}>
          Close
        </button>
      </div>
      {isNamed && <p className="dim">{subject.shortName}</p>}
      {error && <p className="dim">{saidOf(error)}</p>}
      {data?.objects.length === 0 && <p className="dim">No object: the sky, or the plate.</p>}
      {data?.objects.map(({ path, share }) => (
        <div key={path} className={styles.here}>
          <span className="ellipsis" title={path}>
            {path.split('/').at(-1)}
          </span>
          <span className="mono dim">{percent(share)}</span>
          <button
            type="button"
            className={`quiet ${styles.small}`}
            aria-pressed={tools.isolated === path}
            aria-label={`Isolate ${path}`}
            onClick={() => tools.isolate(tools.isolated === path ? null : path)}
          >
            Isolate
          </button>
          {subject.entry && (
            <Link
              className={styles.hereLink}
              aria-label={`Select ${path} on the Stage`}
              to={`/projects/${project.id}/stage?${stageAt(subject.entry, path)}`}
            >
              Stage
            </Link>
          )}
        </div>
      ))}
    </section>
  );
}

/** Said as long as one object is shown alone, whichever picture is looked at. */
export function IsolatedLine({ tools }: { tools: ReviewTools }) {
  if (tools.isolated === null) return null;
  return (
    <div className={styles.line}>
      <span className="ellipsis" title={tools.isolated}>
        {tools.isolated.split('/').at(-1)} alone
      </span>
      <button type="button" className={`quiet ${styles.small}`} onClick={() => tools.isolate(null)}>
        Show all
      </button>
    </div>
  );
}

function useObjectsAt({ renderId, share }: AskedAt) {
  const [x, y] = share.map((s) => s.toFixed(6));
  return useQuery({
    queryKey: ['objects', renderId, x, y],
    staleTime: Infinity,
    retry: false,
    queryFn: () => call('objectsInPicture', { params: { renderId }, query: { x: x!, y: y! } }),
  });
}
const saidOf = (e: Error): string =>
  e instanceof ApiError ? [e.message, e.remedy].filter(Boolean).join(' ') : e.message;

/** The Stage as it looks through the picture's camera in its variant, with the object selected. */
const stageAt = ({ camera, variant }: Listed, path: string): string =>
  new URLSearchParams({ camera: camera.id, variant: variant.id, selected: objectTarget(path) }).toString();
