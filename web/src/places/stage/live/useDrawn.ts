// Which pictures of the pane are there to be seen: of the whole frame, and of a region over it.
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';

export type Picture = 'whole' | 'region';
type Seen = Readonly<Record<Picture, boolean>>;
const NOTHING: Seen = { whole: false, region: false };

export interface Drawn {
  readonly drawn: Seen;
  readonly came: (which: Picture) => void;
  /** What does not stay goes so much later, unless a picture comes before. */
  readonly stays: (which: Seen, goesInMs?: number) => void;
  readonly goes: () => void;
}
export function useDrawn(): Drawn {
  const [drawn, setDrawn] = useState(NOTHING);
  const going = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(() => () => clearTimeout(going.current), []);
  const came = useCallback((which: Picture) => {
    clearTimeout(going.current);
    setDrawn((d) => ({ ...d, [which]: true }));
  }, []);
  const stays = useCallback((which: Seen, goesInMs = 0) => {
    const go = () => setDrawn((d) => ({ whole: d.whole && which.whole, region: d.region && which.region }));
    clearTimeout(going.current);
    if (goesInMs === 0) go();
    else going.current = setTimeout(go, goesInMs);
  }, []);
  const goes = useCallback(() => stays(NOTHING), [stays]);
  return useMemo(() => ({ drawn, came, stays, goes }), [drawn, came, stays, goes]);
}
