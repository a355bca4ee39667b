// Frames of an animated scene: a slider and playback. What is shown here changes no camera; “Use this frame” does.
import { Slider } from '@mantine/core';
import { IconPlayerPause, IconPlayerPlay } from '@tabler/icons-react';
import { FRAMES_PER_SECOND } from '@variscen/core/scene';
import { useEffect, useRef, useState } from 'react';
import styles from './TimeBar.module.css';

interface Props {
  readonly first: number;
  readonly last: number;
  readonly step: number;
  /** The camera's own. */
  readonly own: number;
  readonly shown: number | null;
  readonly onShow: (frame: number | null) => void;
  readonly onUse: ((frame: number) => void) | undefined;
}

export function TimeBar({ first, last, step, own, shown, onShow, onUse }: Props) {
  const [playing, setPlaying] = useState(false);
  const frame = shown ?? own;
  const latest = useRef(onShow);
  const from = useRef(frame);
  useEffect(() => {
    latest.current = onShow;
    from.current = frame;
  });
  useEffect(() => {
    if (!playing) return;
    const began = performance.now();
    const start = from.current >= last ? first : Math.max(first, from.current);
    const frames = Math.max(1, Math.floor((last - first) / step) + 1);
    let request = 0;
    const tick = (now: number) => {
      // frames are skipped where the machine is too slow to show them all; time is not stretched
      const k = Math.floor((((now - began) / 1000) * FRAMES_PER_SECOND) / step + (start - first) / step) % frames;
      latest.current(first + k * step);
      request = requestAnimationFrame(tick);
    };
    request = requestAnimationFrame(tick);
    return () => cancelAnimationFrame(request);
  }, [playing, first, last, step]);
  return (
    <div role="group" aria-label="Time" className={styles.time}>
      <button
        type="button"
        className="tool"
        aria-label={playing ? 'Pause' : 'Play'}
        onClick={() => setPlaying(!playing)}
      >
        {playing ? <IconPlayerPause size={16} stroke={1.6} /> : <IconPlayerPlay size={16} stroke={1.6} />}
      </button>
      <Slider
        size="xs"
        aria-label="Frame"
        min={first}
        max={Math.max(first + step, last)}
        step={step}
        value={Math.min(last, Math.max(first, frame))}
        label={null}
        onChange={(v) => {
          setPlaying(false);
          onShow(v);
        }}
      />
      <span className={`mono ${styles.frame}`}>
        {Number(frame.toFixed(2))}{' '}
        <span className="dim">
          of {last} · {(frame / FRAMES_PER_SECOND).toFixed(2)} s
        </span>
      </span>
      {shown !== null && shown !== own && onUse ? (
        <button
          type="button"
          className={`quiet ${styles.quiet}`}
          onClick={() => {
            setPlaying(false);
            onUse(shown);
          }}
        >
          Use this frame
        </button>
      ) : (
        <span />
      )}
    </div>
  );
}
