// Offers a tour when the demo is seen for the first time, and leads through it.
import { useQuery } from '@tanstack/react-query';
import { type Driver, driver } from 'driver.js';
import 'driver.js/dist/driver.css';
import { useEffect, useRef } from 'react';
import { useNavigate } from 'react-router';
import { call } from '../../api/client.ts';
import './driver.css';
import styles from './Tour.module.css';
import { TOUR } from './steps.ts';
import { useTourState } from './tourState.ts';

/** A place may have a scene to load before it shows what a step speaks of. */
const WAITS_MS = 20_000;

export function Tour() {
  const status = useTourState((s) => s.status);
  const demo = useDemo(status !== 'ended');
  if (demo === undefined) return null;
  if (status === 'running') return <Running projectId={demo} />;
  return status === 'new' ? <Offer /> : null;
}

/** The demo's project, where it is there. It is asked for once: edits do not change it. */
export function useDemo(isWanted = true): string | undefined {
  const projects = useQuery({
    queryKey: ['demo'],
    enabled: isWanted,
    staleTime: Infinity,
    queryFn: () => call('listProjects', {}),
  });
  return projects.data?.find((p) => p.isDemo && p.hasScene)?.id;
}

function Offer() {
  const { start, end } = useTourState.getState();
  return (
    <section className={styles.offer} aria-label="Tour">
      <span>New here? Five steps lead around the demo.</span>
      <button type="button" className="quiet" onClick={start}>
        Take the tour
      </button>
      <button type="button" className={`dim ${styles.no}`} onClick={end}>
        No, thanks
      </button>
    </section>
  );
}

function Running({ projectId }: { projectId: string }) {
  const navigate = useNavigate();
  const go = useRef(navigate);
  go.current = navigate;
  useEffect(() => {
    const tour = makeTour(
      (place) => void go.current(`/projects/${projectId}/${place}`),
      () => useTourState.getState().end(),
    );
    return () => tour.destroy();
  }, [projectId]);
  return null;
}

/** @param onEnd when it was taken to its end or left, not when it is destroyed from outside */
function makeTour(goTo: (place: string) => void, onEnd: () => void): Driver {
  const to = (index: number) => {
    const step = TOUR[index];
    if (!step) {
      onEnd();
      return;
    }
    goTo(step.place);
    tour.moveTo(index);
  };
  const at = () => tour.getActiveIndex() ?? 0;
  const tour = driver({
    steps: TOUR.map(({ mark, title, text, side }) => ({
      element: `[data-tour="${mark}"]`,
      popover: { title, description: text.join(' '), ...(side !== 'over' && { side }) },
    })),
    animate: false,
    waitForElement: WAITS_MS,
    overlayOpacity: 0.6,
    stagePadding: 0,
    stageRadius: 4,
    disableActiveInteraction: true,
    overlayClickBehavior: () => undefined,
    showProgress: true,
    progressText: '{{current}} of {{total}}',
    nextBtnText: 'Next',
    prevBtnText: 'Back',
    doneBtnText: 'Done',
    // by itself it gives the focus to what closes it
    onPopoverRender: ({ nextButton }) => void setTimeout(() => nextButton.focus()),
    onNextClick: () => to(at() + 1),
    onPrevClick: () => at() > 0 && to(at() - 1),
    onCloseClick: onEnd,
    onDoneClick: onEnd,
    onDestroyStarted: onEnd,
  });
  goTo(TOUR[0]!.place);
  tour.drive();
  return tour;
}
