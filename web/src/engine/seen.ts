// Which objects a camera sees, found by the engine's own rays: what hides behind others is not among them, which boxes
// could not tell.
import type { ResolvedState, SceneIndex } from '@variscen/core/looks';
import type { CameraSettings } from '@variscen/core/scene';
import { useCallback, useEffect, useRef } from 'react';
import { LiveRender } from './liveRender.ts';
import { plural } from '../ui/format.ts';
import { say } from '../ui/notify.ts';

/** A thing that covers less than about a thousandth of the picture may be missed. */
const HEIGHT_PX = 360;
const SAMPLES = 4;

interface Asked {
  readonly sceneHash: string | undefined;
  readonly index: SceneIndex | undefined;
  readonly state: ResolvedState | undefined;
  readonly camera: CameraSettings | undefined;
  readonly onSeen: (nodes: readonly number[]) => void;
}

export function useSeen({ sceneHash, index, state, camera, onSeen }: Asked): () => void {
  const running = useRef<LiveRender | null>(null);
  useEffect(() => () => running.current?.forget(), []);
  return useCallback(() => {
    if (!sceneHash || !index || !state || !camera) return;
    running.current?.forget();
    const render = new LiveRender('seen', (m) => {
      if (m.kind === 'failed') {
        render.forget();
        say('What the camera sees could not be found', m.message);
      }
      if (m.kind !== 'seen') return;
      render.forget();
      const nodes = m.paths.map((p) => index.indexOf(p)).filter((n) => n !== undefined);
      onSeen(nodes);
      say(`${plural(nodes.length, 'object')} seen by the camera`);
    });
    running.current = render;
    say('Finding what the camera sees …');
    render.show({
      sceneHash,
      state,
      camera,
      width: (HEIGHT_PX * camera.widthPx) / camera.heightPx,
      height: HEIGHT_PX,
      samples: SAMPLES,
      evidence: true,
    });
  }, [sceneHash, index, state, camera, onSeen]);
}
