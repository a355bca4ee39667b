// Which pictures of the pane are there to be seen: of the whole frame, and of a region over it.
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';

export type Picture = 'whole' | 'region';
type Seen = Readonly<Record<Picture, boolean>>;
const NOTHING: Seen = { whole: false, region: false };

/**
 * So long nothing has changed before what is under a good picture is drawn: where no card draws, that takes seconds.
 */
const STILL_MS = 800;
/** And so long where the picture does not get good: its machine may be given to others. */
const LATEST_MS = 10_000;

export interface Drawn {
  readonly drawn: Seen;
  /** @param isGood what lies under it may take its time soon */
  readonly came: (which: Picture, isGood: boolean) => void;
  /** What does not stay goes so much later, unless a picture comes before. */
  readonly stays: (which: Seen, goesInMs?: number) => void;
  readonly goes: () => void;
}
/** @param waited what is under the pictures is not seen, and waits until they are good or go, or for ten seconds */
export function useDrawn(waited: (waits: boolean) => void): Drawn {
  const [drawn, setDrawn] = useState(NOTHING);
  const going = useRef<ReturnType<typeof setTimeout>>(undefined);
  const latest = useRef(waited);
  latest.current = waited;
  const waitNoMore = useCallback(() => {
    clearTimeout(going.current);
    latest.current(false);
  }, []);
  useEffect(() => waitNoMore, [waitNoMore]);
  const came = useCallback(
    (which: Picture, isGood: boolean) => {
      clearTimeout(going.current);
      going.current = setTimeout(waitNoMore, isGood ? STILL_MS : LATEST_MS);
      setDrawn((d) => ({ ...d, [which]: true }));
    },
    [waitNoMore],
  );
  const stays = useCallback(
    (which: Seen, goesInMs = 0) => {
      const go = () => {
        waitNoMore();
        setDrawn((d) => ({ whole: d.whole && which.whole, region: d.region && which.region }));
      };
      if (goesInMs === 0) {
        go();
        return;
      }
      clearTimeout(going.current);
      going.current = setTimeout(go, goesInMs);
      latest.current(true);
    },
    [waitNoMore],
  );
  const goes = useCallback(() => stays(NOTHING), [stays]);
  return useMemo(() => ({ drawn, came, stays, goes }), [drawn, came, stays, goes]);
}
