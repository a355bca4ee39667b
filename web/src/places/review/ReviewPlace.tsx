// The pictures that are there, large: gone through, compared, judged.
import type { Project } from '@variscen/contract';
import { useEffect, useState } from 'react';
import { Link } from 'react-router';
import { FITTED, type View } from '../../model/review/view.ts';
import { pictures } from '../../pictures/pictureService.ts';
import { PictureStage } from './PictureStage.tsx';
import styles from './ReviewPlace.module.css';
import { ReviewSentence } from './ReviewSentence.tsx';
import { ReviewSide } from './ReviewSide.tsx';
import { Strip } from './Strip.tsx';
import { Toolbar } from './Toolbar.tsx';
import { type ReviewTools, useReviewTools } from './useReviewTools.ts';
import { type ReviewState, useReview } from './useReview.ts';
import { useReviewKeys } from './useReviewKeys.ts';

export function ReviewPlace({ project }: { project: Project }) {
  const review = useReview(project);
  // while the server is asked what there is
  useEffect(() => pictures.warm(), []);
  if (review.isReady && !review.all.length) return <NothingRendered project={project} />;
  return <Review project={project} review={review} />;
}

function NothingRendered({ project }: { project: Project }) {
  return (
    <>
      <header className="sentence">“{project.name}” has no pictures yet.</header>
      <main className="place empty">
        <h1>Render some cells first</h1>
        <p>Here their pictures are gone through, compared and approved.</p>
        <Link className="go" to={`/projects/${project.id}/board`}>
          Go to the board
        </Link>
      </main>
    </>
  );
}

function Review({ project, review }: { project: Project; review: ReviewState }) {
  const [view, setView] = useState<View>(FITTED);
  const tools: ReviewTools = useReviewTools(review);
  useReviewKeys(review, tools, setView);
  return (
    <>
      <ReviewSentence project={project} review={review} />
      <main className={`place ${styles.place}`} aria-label="Review" data-tour="review" data-surround={tools.surround}>
        <div className={styles.middle}>
          <Toolbar projectId={project.id} review={review} tools={tools} view={view} onView={setView} />
          {review.current ? (
            <PictureStage review={review} tools={tools} view={view} onView={setView} />
          ) : (
            <p className={`dim ${styles.none}`}>No picture is as you ask for.</p>
          )}
          <Strip review={review} />
        </div>
        {review.current && (
          <ReviewSide
            key={review.current.rendered.id}
            project={project}
            review={review}
            current={review.current}
            tools={tools}
          />
        )}
      </main>
    </>
  );
}
