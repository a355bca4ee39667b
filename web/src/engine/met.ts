// What a camera sees, and what its picture does not need, found by the engine's own rays: what hides behind others is
// seen by none, and what stands outside the frame may be needed for its shadow, its reflection or its light.
import { uncut } from '@variscen/core/cull';
import type { ResolvedState, SceneIndex } from '@variscen/core/looks';
import type { CameraSettings } from '@variscen/core/scene';
import { useCallback, useEffect, useRef } from 'react';
import { count, plural } from '../ui/format.ts';
import { say } from '../ui/notify.ts';
import { LiveRender } from './liveRender.ts';
import type { Said } from './messages.ts';

/** A thing that covers less than about a thousandth of the picture may be missed. */
const HEIGHT_PX = 360;
const SAMPLES = { seen: 4, unneeded: 8 } as const;

export type Met = keyof typeof SAMPLES;

interface Asked {
  readonly sceneHash: string | undefined;
  readonly index: SceneIndex | undefined;
  readonly state: ResolvedState | undefined;
  readonly camera: CameraSettings | undefined;
  readonly onFound: (nodes: readonly number[]) => void;
}

export function useMet({ sceneHash, index, state, camera, onFound }: Asked): (what: Met) => void {
  const running = useRef<LiveRender | null>(null);
  useEffect(() => () => running.current?.forget(), []);
  return useCallback(
    (what) => {
      if (!sceneHash || !index || !state || !camera) return;
      running.current?.forget();
      const render = new LiveRender('seen', (m) => {
        if (m.kind === 'failed') {
          render.forget();
          say(`${WORDS[what].name} could not be found`, m.message);
        }
        if (m.kind !== 'met') return;
        render.forget();
        const nodes = (what === 'seen' ? m.seen : m.unmet).flatMap((path) => index.indexOf(path) ?? []);
        onFound(nodes);
        say(...WORDS[what].found(nodes.length, m));
      });
      running.current = render;
      say(`Finding ${WORDS[what].what} …`);
      render.show({
        sceneHash,
        state,
        camera: uncut(camera), // of all that is shown, whatever the camera leaves out
        width: (HEIGHT_PX * camera.widthPx) / camera.heightPx,
        height: HEIGHT_PX,
        samples: SAMPLES[what],
        evidence: true,
      });
    },
    [sceneHash, index, state, camera, onFound],
  );
}

type Found = Extract<Said, { kind: 'met' }>;
interface Words {
  readonly name: string;
  readonly what: string;
  readonly found: (objects: number, found: Found) => readonly [title: string, message?: string];
}
const WORDS: Readonly<Record<Met, Words>> = {
  seen: {
    name: 'What the camera sees',
    what: 'what the camera sees',
    found: (n) => [`${plural(n, 'object')} seen by the camera`],
  },
  unneeded: {
    name: 'What this camera does not need',
    what: 'what this camera does not need',
    found: (n, { lightPaths }) => [
      n === 0 ? 'This camera needs every object that is shown' : `${plural(n, 'object')} not needed by this camera`,
      n === 0
        ? `Of ${count(lightPaths)} light paths at this frame, some met each of them.`
        : `None of ${count(lightPaths)} light paths at this frame met ${n === 1 ? 'it' : 'them'}, directly or by shadow, reflection or bounce.`,
    ],
  },
};
