// Keys of the review; shell/help/placeKeys.ts says them.
import { useEffect } from 'react';
import type { Verdict } from '@variscen/contract';
import { FITTED, type View } from '../../model/review/view.ts';
import { typing } from '../../ui/typing.ts';
import type { ReviewTools } from './useReviewTools.ts';
import { MODES, type ReviewState } from './useReview.ts';

export function useReviewKeys(review: ReviewState, tools: ReviewTools, onView: (view: View) => void): void {
  useEffect(() => {
    const judge = (verdict: Verdict) => {
      const { current } = review;
      if (!current) return;
      const isTakenBack = current.review?.verdict === verdict;
      review.say([current.rendered.id], { verdict: isTakenBack ? null : verdict });
    };
    const hold = () => {
      const id = review.current?.rendered.id;
      if (id !== undefined) review.hold(id, !review.heldIds.includes(id));
    };
    const does: Readonly<Record<string, () => void>> = {
      ArrowLeft: () => review.step(-1),
      ArrowRight: () => review.step(1),
      ArrowUp: () => review.stepVersion(1),
      ArrowDown: () => review.stepVersion(-1),
      a: () => judge('approved'),
      r: () => judge('rejected'),
      n: () => document.getElementById('review-note')?.focus(),
      m: () => tools.setDragging(tools.dragging === 'draw' ? 'move' : 'draw'),
      ' ': hold,
      f: () => tools.flip(),
      b: () => tools.stepSurround(),
      '0': () => onView(FITTED),
      Escape: () => {
        tools.setDragging('move');
        tools.setRegion(null);
        tools.setAsked(null);
        tools.isolate(null);
      },
      ...Object.fromEntries(
        MODES.map((mode, i) => [String(i + 1), () => review.put({ how: mode === 'one' ? null : mode })]),
      ),
    };
    const onKey = (e: KeyboardEvent) => {
      if (typing(e.target) || e.ctrlKey || e.metaKey || e.altKey || e.defaultPrevented) return;
      if (document.querySelector('[role=dialog][aria-modal=true]')) return;
      // what has the keyboard has its own: a slider, a button that is pressed by Space
      const own =
        e.target instanceof HTMLElement ? e.target.closest('[role=slider], [role=separator], button, select, a') : null;
      if (own && (e.key === ' ' || (e.key.startsWith('Arrow') && own.matches('[role=slider], [role=separator]'))))
        return;
      const act = does[e.key.length === 1 ? e.key.toLowerCase() : e.key];
      if (!act) return;
      e.preventDefault();
      act();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  });
}
