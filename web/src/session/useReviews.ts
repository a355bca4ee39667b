// What is said of a project's pictures, this window's last words among it.
import type { Review } from '@variscen/contract';
import { useMemo, useSyncExternalStore } from 'react';
import { useKnownReviews, useRendered } from '../api/queries.ts';
import { cellKey } from '../model/selectedCells.ts';
import { useSession } from './projectSession.ts';
import { reviewsWith } from './saidOfPictures.ts';

/** By picture. */
export function useReviews(projectId: string): ReadonlyMap<string, Review> {
  const { said } = useSession(projectId);
  const { data: known } = useKnownReviews(projectId);
  const { data: rendered } = useRendered(projectId);
  const now = useSyncExternalStore(said.subscribe, said.current);
  return useMemo(() => {
    const byId = new Map((rendered ?? []).map((r) => [r.id, r]));
    return reviewsWith(known ?? [], now, (id) => byId.get(id));
  }, [known, now, rendered]);
}

export interface Judged {
  /** By picture. */
  readonly ofPicture: ReadonlyMap<string, Review>;
  /** By cell, the newest version that is approved. */
  readonly approved: ReadonlyMap<string, Review>;
}
/** As the board shows it. */
export function useJudged(projectId: string): Judged {
  const { data: known } = useKnownReviews(projectId);
  return useMemo(() => {
    const approved = new Map<string, Review>();
    for (const review of known ?? []) {
      const key = cellKey(review.cameraId, review.variantId);
      if (review.verdict === 'approved' && review.version > (approved.get(key)?.version ?? 0))
        approved.set(key, review);
    }
    return { ofPicture: new Map((known ?? []).map((r) => [r.renderId, r])), approved };
  }, [known]);
}
