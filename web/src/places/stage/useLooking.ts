// How the Stage is looked at: through the camera or freely, at which frame, and whether a click sets the focus.
import { useCallback, useState } from 'react';
import type { ProjectSession } from '../../session/projectSession.ts';
import { useAddress } from '../../ui/address.ts';

export interface Looking {
  /** Looking around, not through the camera. */
  readonly free: boolean;
  /** A click sets what the camera focuses on. */
  readonly picking: boolean;
  /** A frame that is tried; null: the camera's own. */
  readonly frame: number | null;
  setFree(free: boolean): void;
  setPicking(picking: boolean): void;
  setFrame(frame: number | null): void;
  /** Through another camera. */
  look(cameraId: string): void;
}

export function useLooking(session: ProjectSession): Looking {
  const [, put] = useAddress();
  const [free, setFree] = useState(false);
  const [picking, setPicking] = useState(false);
  const [frame, setFrame] = useState<number | null>(null);
  const look = useCallback(
    (cameraId: string) => {
      session.flushCameras();
      setFrame(null);
      setPicking(false);
      setFree(false);
      put({ camera: cameraId });
    },
    [session, put],
  );
  return { free, picking, frame, setFree, setPicking, setFrame, look };
}
