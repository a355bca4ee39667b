// Whose turn it is on this machine while its node renders: the queue's node steps back for who edits, and the live render
// waits for the queue where somebody wants it so. Kept in this browser.
import { useState } from 'react';
import { useNodes } from '../../../api/queries.ts';

const KEY = 'variscen.live.waits';

export interface LiveTurn {
  /** The node of this machine renders for the queue. */
  readonly isRendering: boolean;
  /** The live render waits meanwhile. */
  readonly waits: boolean;
  readonly setWaits: (waits: boolean) => void;
}
export function useLiveTurn(): LiveTurn {
  const { data: nodes } = useNodes();
  const [waits, setWaits] = useState(() => localStorage.getItem(KEY) === 'yes');
  return {
    isRendering: nodes?.some((n) => n.isOwn && n.state === 'rendering') ?? false,
    waits,
    setWaits: (next) => {
      localStorage.setItem(KEY, next ? 'yes' : 'no');
      setWaits(next);
    },
  };
}
