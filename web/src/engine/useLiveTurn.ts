// Whose turn it is on this machine while its node renders: the queue's node steps back for who edits, and what the page
// renders waits for the queue where somebody wants it so. Kept in this browser, for all of its windows.
import { useSyncExternalStore } from 'react';
import { useOwnNodeRenders } from '../api/queries.ts';

const KEY = 'variscen.live.waits';

export interface LiveTurn {
  /** The node of this machine renders for the queue. */
  readonly isRendering: boolean;
  /** What the page renders waits meanwhile. */
  readonly waits: boolean;
  readonly setWaits: (waits: boolean) => void;
}
const listeners = new Set<() => void>();
function listen(changed: () => void): () => void {
  listeners.add(changed);
  window.addEventListener('storage', changed);
  return () => {
    listeners.delete(changed);
    window.removeEventListener('storage', changed);
  };
}
const isWanted = (): boolean => localStorage.getItem(KEY) === 'yes';
function setWaits(waits: boolean): void {
  localStorage.setItem(KEY, waits ? 'yes' : 'no');
  for (const changed of listeners) changed();
}

export function useLiveTurn(): LiveTurn {
  return { isRendering: useOwnNodeRenders(), waits: useSyncExternalStore(listen, isWanted), setWaits };
}

function listenToSight(changed: () => void): () => void {
  document.addEventListener('visibilitychange', changed);
  return () => document.removeEventListener('visibilitychange', changed);
}
/** Whether nobody sees this page: it is behind another, or put away. */
export const useHidden = (): boolean => useSyncExternalStore(listenToSight, () => document.hidden);
