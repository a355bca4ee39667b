// Something that takes a while, one at a time: begun again it ends the one before, and it ends when another camera or
// variant is looked at.
import { useEffect, useRef, useState } from 'react';
import { sayError } from '../../ui/notify.ts';

export interface OneRun {
  readonly isRunning: boolean;
  /** What fails is said, unless it was stopped. */
  readonly run: (work: (signal: AbortSignal) => Promise<void>) => void;
  readonly stop: () => void;
}
export function useOneRun(cameraId: string, variantId: string): OneRun {
  const running = useRef<AbortController | null>(null);
  const [isRunning, setIsRunning] = useState(false);
  useEffect(() => () => running.current?.abort(), [cameraId, variantId]);
  const run = async (work: (signal: AbortSignal) => Promise<void>) => {
    const stop = new AbortController();
    running.current?.abort();
    running.current = stop;
    setIsRunning(true);
    try {
      await work(stop.signal);
    } catch (e) {
      if (!stop.signal.aborted) sayError(e);
    } finally {
      if (running.current === stop) setIsRunning(false);
    }
  };
  return { isRunning, run: (work) => void run(work), stop: () => running.current?.abort() };
}
