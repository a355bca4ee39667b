// The engine's own picture over the real-time view, in the frame of the camera or in the whole view; it restarts when
// what is shown changes.
import type { ResolvedState } from '@variscen/core/looks';
import type { CameraSettings } from '@variscen/core/scene';
import { useEffect, useRef, useState } from 'react';
import { LiveRender } from '../../../engine/liveRender.ts';
import { bytes, plural } from '../../../ui/format.ts';
import type { Shown } from '../../../engine/wish.ts';
import type { FrameRect } from '../../../view3d/viewport.ts';
import styles from './LivePane.module.css';

const STILL_MS = 150;
/** While lights are changed in the picture that is there, nothing waits for a new one. */
const RELIT_STILL_MS = 500;

interface Props {
  sceneHash: string;
  state: ResolvedState;
  camera: CameraSettings;
  rect: FrameRect;
}

export function LivePane({ sceneHash, state, camera, rect }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const live = useRef<LiveRender | null>(null);
  /** What is shown, or waits for its turn. */
  const wanted = useRef<Shown | null>(null);
  const [said, setSaid] = useState('Starting …');
  const [drawn, setDrawn] = useState(false);
  useEffect(() => {
    const l = new LiveRender('live', (m) => {
      if (m.kind === 'failed') {
        setSaid(m.message);
        setDrawn(false);
        return;
      }
      if (m.kind === 'loading') {
        setSaid(`Loading ${m.done} of ${m.of} …`);
        return;
      }
      if (m.kind === 'outdated') {
        setDrawn(false);
        return;
      }
      if (m.kind !== 'picture') return;
      const c = canvas.current;
      if (!c) return;
      c.width = m.widthPx;
      c.height = m.heightPx;
      c.getContext('2d')!.putImageData(new ImageData(m.rgba, m.widthPx, m.heightPx), 0, 0);
      setDrawn(true);
      setSaid(
        `${plural(m.samples, 'sample')} · ${m.seconds.toFixed(1)} s · ${bytes(m.memoryBytes)}${m.threads === 1 ? '' : ` · ${m.threads} threads`}${m.finished ? ' · done' : ''}`,
      );
    });
    live.current = l;
    return () => {
      live.current = null;
      l.forget();
    };
  }, []);
  const { width, height } = rect;
  const place = JSON.stringify(camera); // the same camera may come in another object when a hand has let go of it
  useEffect(() => {
    const shown = { sceneHash, state, camera, width, height };
    const isRelit = live.current?.relight(shown) ?? false;
    if (!isRelit) {
      setDrawn(false); // what is under it shows the change at once
      live.current?.mute();
    }
    wanted.current = shown;
    const show = () => {
      if (!document.hidden) live.current?.show(shown, isRelit);
    };
    const wait = setTimeout(show, isRelit ? RELIT_STILL_MS : STILL_MS);
    return () => clearTimeout(wait);
  }, [sceneHash, state, place, width, height]);
  // nobody looks: the machine is left to others; what was there is shown until it is as good again
  useEffect(() => {
    const changed = () => {
      if (document.hidden) live.current?.forget();
      else if (wanted.current) live.current?.show(wanted.current, true);
    };
    document.addEventListener('visibilitychange', changed);
    return () => document.removeEventListener('visibilitychange', changed);
  }, []);
  return (
    <div className={styles.box} style={rect}>
      <canvas ref={canvas} aria-label="Live render" role="img" className={styles.liveRender} data-drawn={drawn} />
      <span className={`mono ${styles.live}`} data-live={drawn ? 'drawn' : 'waiting'}>
        Live · {said}
      </span>
    </div>
  );
}
