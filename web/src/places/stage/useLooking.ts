// How the Stage is looked at: through the camera or freely, at which frame, and what a click is for.
import type { LightType } from '@variscen/core/scene';
import { useCallback, useState } from 'react';
import type { PlacingHow } from '../../model/lightPlacing.ts';
import type { ProjectSession } from '../../session/projectSession.ts';
import { useAddress } from '../../ui/address.ts';

/** What the next click in the view is for. */
export type Picking =
  /** Says what the camera focuses on. */
  | { readonly for: 'focus' }
  /** Says where a light goes, one that is there or a new one of a type: before what it lights, or where it mirrors. */
  | { readonly for: 'place'; readonly light: string | LightType; readonly isNew: boolean; readonly how: PlacingHow }
  /** Says what lights are aimed at, and follow. */
  | { readonly for: 'aim'; readonly targets: readonly string[] };

export interface Looking {
  /** Looking around, not through the camera. */
  readonly free: boolean;
  readonly picking: Picking | null;
  /** A frame that is tried; null: the camera's own. */
  readonly frame: number | null;
  setFree(free: boolean): void;
  setPicking(picking: Picking | null): void;
  setFrame(frame: number | null): void;
  /** Through another camera. */
  look(cameraId: string): void;
}

export function useLooking(session: ProjectSession): Looking {
  const [, put] = useAddress();
  const [free, setFree] = useState(false);
  const [picking, setPicking] = useState<Picking | null>(null);
  const [frame, setFrame] = useState<number | null>(null);
  const look = useCallback(
    (cameraId: string) => {
      session.flushCameras();
      setFrame(null);
      setPicking(null);
      setFree(false);
      put({ camera: cameraId });
    },
    [session, put],
  );
  return { free, picking, frame, setFree, setPicking, setFrame, look };
}
