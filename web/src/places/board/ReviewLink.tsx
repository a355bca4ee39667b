// From the selected cells to their pictures, large; and what was said of the one that is selected.
import type { BoardCell, Project, Render } from '@variscen/contract';
import { Link } from 'react-router';
import { cellKey } from '../../model/selectedCells.ts';
import { scopeInAddress } from '../../model/review/strip.ts';
import { useJudged } from '../../session/useReviews.ts';
import { plural, version } from '../../ui/format.ts';
import { VERDICT_WORDS, VerdictMark } from '../../ui/VerdictMark.tsx';
import styles from './PlanPanel.module.css';

export function ReviewLink({ project, cells }: { project: Project; cells: readonly BoardCell[] }) {
  const rendered = cells.filter((c) => c.render !== null);
  if (!rendered.length) return null;
  const [one] = rendered;
  const of = scopeInAddress({ kind: 'cells', cells: rendered.map((c) => cellKey(c.cameraId, c.variantId)) })!;
  const to = `/projects/${project.id}/review?${new URLSearchParams({ of })}`;
  return (
    <div className={styles.review}>
      {rendered.length === 1 && <Said project={project} cell={one!} render={one!.render!} />}
      <Link className={`quiet ${styles.link}`} to={to}>
        Review {rendered.length === 1 ? 'this picture' : plural(rendered.length, 'picture')}
      </Link>
    </div>
  );
}

function Said({ project, cell, render }: { project: Project; cell: BoardCell; render: Render }) {
  const { ofPicture, approved } = useJudged(project.id);
  const review = ofPicture.get(render.id);
  const pinned = approved.get(cellKey(cell.cameraId, cell.variantId));
  const compare = new URLSearchParams({
    of: scopeInAddress({ kind: 'versions', cell: cellKey(cell.cameraId, cell.variantId) })!,
    at: render.id,
    with: pinned?.renderId ?? '',
    how: 'beside',
  });
  return (
    <>
      {review?.verdict && (
        <span className={styles.verdict}>
          <VerdictMark verdict={review.verdict} /> {VERDICT_WORDS[review.verdict]}
        </span>
      )}
      {review?.note && <p className={styles.note}>{review.note}</p>}
      {pinned && pinned.version < render.version && (
        <Link className={styles.beside} to={`/projects/${project.id}/review?${compare}`}>
          {version(pinned.version)} is approved: beside {version(render.version)}
        </Link>
      )}
    </>
  );
}
