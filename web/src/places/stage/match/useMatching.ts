// Matching the camera that is looked through to its plate: lines under way, what they say, and what comes of it.
import type { Camera } from '@variscen/contract';
import { type Change, imageValue } from '@variscen/core/looks';
import {
  CAMERA_LIMITS,
  type CameraHandling,
  type CameraSettings,
  MatchFault,
  type MatchedCamera,
  type PlateMatch,
  directionAt,
  matchCamera,
  within,
} from '@variscen/core/scene';
import { skyFromPlate } from '@variscen/core/environment';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { ProjectSession } from '../../../session/projectSession.ts';
import { say, sayError } from '../../../ui/notify.ts';
import type { Looking } from '../useLooking.ts';
import type { Recording } from '../useRecording.ts';
import type { Shown } from '../useShown.ts';
import { FIRST_LINES } from './firstLines.ts';
import { readPlate } from './plateLight.ts';

/** What the lines say so far: a camera, or why there is none. */
export type Found =
  | { readonly kind: 'camera'; readonly camera: MatchedCamera; readonly settings: CameraSettings }
  | { readonly kind: 'fault'; readonly message: string };

export interface Matching {
  /** The lines that are drawn; null: nobody is matching. */
  readonly lines: PlateMatch | null;
  readonly found: Found | null;
  /** Why the camera that is looked through cannot be matched; null: it can be. */
  readonly barred: string | null;
  begin(): void;
  draw(lines: PlateMatch): void;
  /** The camera becomes the one that was found, and remembers its lines. */
  take(): void;
  leave(): void;
  /** The height of a frame in the plate's shape; null: it has that shape. */
  readonly plateHeightPx: number | null;
  reshape(): void;
  /** Edits that set the scene into the plate: it behind all, a ground that catches shadow, and its sky. */
  setInto(): Promise<void>;
}

interface Parts {
  readonly shown: Shown;
  readonly looking: Looking;
  readonly recording: Recording;
  readonly session: ProjectSession;
}

export function useMatching(projectId: string, { shown, looking, recording, session }: Parts): Matching {
  const { camera } = shown;
  const [lines, setLines] = useState<PlateMatch | null>(null);
  // what was drawn and not taken is there again when one comes back to its camera and plate
  const drafts = useRef(new Map<string, PlateMatch>());
  useEffect(() => setLines(null), [projectId, camera?.id, looking.free]);
  const barred = barredFor(camera, looking.free);
  const shape = camera?.settings as CameraSettings | undefined;
  const found = useMemo(() => (lines && shape ? foundBy(lines, shape) : null), [lines, shape]);
  const plate = camera?.handling.plate ?? null;
  const draftKey = `${camera?.id ?? ''} ${plate?.hash ?? ''}`;
  const plateHeightPx = plate && shape ? otherHeight(plate, shape) : null;
  return {
    lines: barred === null ? lines : null,
    found,
    barred,
    begin: () => setLines(drafts.current.get(draftKey) ?? (plate?.match as PlateMatch | undefined) ?? FIRST_LINES),
    draw: (drawn) => {
      drafts.current.set(draftKey, drawn);
      setLines(drawn);
    },
    leave: () => setLines(null),
    plateHeightPx,
    reshape: () => {
      if (camera && plateHeightPx !== null)
        session.changeCameras([camera.id], { settings: { heightPx: plateHeightPx } });
    },
    take: () => {
      if (!camera || !plate || !lines || found?.kind !== 'camera') return;
      const handling = { ...camera.handling, plate: { ...plate, match: lines, fit: 'fill' as const } };
      session.flushCameras();
      session.setCamera(camera.id, { settings: found.settings, handling: handling as CameraHandling });
      drafts.current.delete(draftKey);
      setLines(null);
      say('The camera is matched to its plate', 'Its lines are kept: they are there when you match it again.');
    },
    setInto: async () => {
      if (!camera || !plate) return;
      try {
        recording.record(await changesInto(camera, plate));
      } catch (e) {
        sayError(e);
      }
    },
  };
}

function barredFor(camera: Camera | undefined, free: boolean): string | null {
  if (!camera || free) return 'Look through the camera first.';
  const settings = camera.settings as CameraSettings;
  if (settings.projection !== 'perspective') return 'A plate is matched by perspective: this camera is orthographic.';
  if (settings.follows !== undefined) return `This camera moves with “${settings.follows}” of the scene.`;
  return camera.handling.locked ? 'The camera is locked: unlock it first.' : null;
}

/** Of the frame in a plate's shape, where it has another. */
function otherHeight(plate: { readonly widthPx: number; readonly heightPx: number }, frame: CameraSettings) {
  const heightPx = within(CAMERA_LIMITS.sizePx, Math.round((frame.widthPx * plate.heightPx) / plate.widthPx));
  return Math.abs(heightPx - frame.heightPx) > 1 ? heightPx : null;
}

function foundBy(lines: PlateMatch, shape: CameraSettings): Found {
  try {
    const camera = matchCamera(lines, shape);
    const { matrix, focalLengthMm } = camera;
    return { kind: 'camera', camera, settings: { ...shape, matrix, focalLengthMm } };
  } catch (e) {
    if (!(e instanceof MatchFault)) throw e;
    return { kind: 'fault', message: e.message };
  }
}

async function changesInto(camera: Camera, plate: NonNullable<Camera['handling']['plate']>): Promise<Change[]> {
  const settings = camera.settings as CameraSettings;
  const { mediaType, light, places } = await readPlate(plate, settings.widthPx / settings.heightPx);
  const sky = skyFromPlate(
    light,
    places.map((p) => directionAt(settings, p)[1]),
  );
  const { hash: blob, name, widthPx: width, heightPx: height } = plate;
  const of = (property: string, value: Change['value']): Change => ({
    target: 'environment',
    property: `environment.${property}`,
    value,
  });
  return [
    of('plate', imageValue({ blob, name, width, height, mediaType })),
    of('ground', true),
    of('groundAt', (plate.match as PlateMatch | undefined)?.groundAt ?? [0, 0, 0]),
    ...(sky
      ? [
          of('kind', 'gradient'),
          of('zenith', sky.zenith),
          of('horizon', sky.horizon),
          of('below', sky.ground),
          of('strength', sky.strength),
        ]
      : []),
  ];
}
