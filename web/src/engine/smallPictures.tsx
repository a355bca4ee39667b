// Small pictures by the engine, made one after another in the background and kept by what they show: of all cameras, of
// all options.
import { uncut } from '@variscen/core/cull';
import { type CellHashes, type Layer, type SceneIndex, resolve } from '@variscen/core/looks';
import type { CameraSettings } from '@variscen/core/scene';
import { useEffect, useRef, useState } from 'react';
import { LiveRender } from './liveRender.ts';
import styles from './smallPictures.module.css';
import { useHidden, useLiveTurn } from './useLiveTurn.ts';

/** Nothing has changed for so long: what is being edited is not slowed by pictures of how it was. */
const REST_MS = 1000;
const USUAL_SAMPLES = 24;
const KEPT = 300;

export interface Picture {
  readonly rgba: Uint8ClampedArray<ArrayBuffer>;
  readonly widthPx: number;
  readonly heightPx: number;
}
export interface PictureJob {
  readonly id: string;
  readonly key: string;
  readonly index: SceneIndex;
  readonly layers: readonly Layer[];
  readonly camera: CameraSettings;
  readonly heightPx: number;
  readonly samples: number;
}
/**
 * Told apart by sums of digests, which an edit of thousands of values changes by a few; looks are resolved only when a
 * picture is made.
 */
export const pictureJob = (
  id: string,
  hashes: CellHashes,
  index: SceneIndex,
  layers: readonly Layer[],
  camera: CameraSettings,
  heightPx: number,
  samples = USUAL_SAMPLES,
): PictureJob => ({
  id,
  index,
  layers,
  camera,
  heightPx,
  samples,
  key: `${hashes.ofLayers(layers, { ...uncut(camera), crop: undefined })} ${heightPx} ${samples}`,
});

/** What was made is kept while the page is open, whoever shows it. */
const made = new Map<string, Picture>();
/** The last that was made of a thing, shown until there is one of how it is now. */
const last = new Map<string, Picture>();
export const pictureOf = (job: PictureJob): Picture | undefined => made.get(job.key);
export const earlierPictureOf = (job: PictureJob): Picture | undefined => last.get(`${job.heightPx} ${job.id}`);

/**
 * Makes the pictures of the jobs that have none, while it is mounted and somebody sees the page. Those in the
 * background wait for the queue where the live render does.
 */
export function useSmallPictures(
  sceneHash: string,
  jobs: readonly PictureJob[],
  urgency: 'small' | 'seen' = 'small',
): { readonly doing: string | null; readonly fault: string | null; readonly waits: boolean } {
  const [done, setDone] = useState(0);
  const [doing, setDoing] = useState<string | null>(null);
  const [fault, setFault] = useState<string | null>(null);
  const changedAt = useRef(0);
  const failed = useRef(new Set<string>());
  const known = useRef(jobs);
  if (known.current !== jobs) {
    known.current = jobs;
    changedAt.current = performance.now();
  }
  // one that cannot be made holds up no other; it is tried again when what it shows has changed
  const next = jobs.find((j) => !made.has(j.key) && !failed.current.has(j.key));
  const upcoming = useRef(next);
  upcoming.current = next;
  const key = next?.key; // the same picture may come as another object: what is begun goes on
  const turn = useLiveTurn();
  const waits = urgency === 'small' && turn.isRendering && turn.waits;
  const rests = useHidden() || waits;
  useEffect(() => {
    const next = upcoming.current;
    if (!next || rests) {
      setDoing(null);
      return;
    }
    const render = new LiveRender(urgency, (m) => {
      if (m.kind === 'failed') {
        failed.current.add(next.key);
        setFault(m.message);
      } else if (m.kind === 'picture' && m.finished) keep(next, m);
      else return;
      setDone((n) => n + 1);
    });
    const begin = () => {
      setDoing(next.id);
      render.show({
        sceneHash,
        state: resolve(next.index, next.layers),
        camera: next.camera,
        width: Math.round((next.heightPx * next.camera.widthPx) / next.camera.heightPx),
        height: next.heightPx,
        samples: next.samples,
      });
    };
    const start = setTimeout(begin, Math.max(0, changedAt.current + REST_MS - performance.now()));
    return () => {
      clearTimeout(start);
      render.forget();
    };
  }, [key, sceneHash, done, urgency, rests]);
  return { doing, fault: jobs.some((j) => failed.current.has(j.key)) ? fault : null, waits };
}
function keep(job: PictureJob, { rgba, widthPx, heightPx }: Picture): void {
  const picture = { rgba, widthPx, heightPx };
  made.set(job.key, picture);
  last.set(`${job.heightPx} ${job.id}`, picture);
  while (made.size > KEPT) made.delete(made.keys().next().value!);
}

export function Print({ picture, stale = false }: { picture: Picture; stale?: boolean }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const c = canvas.current!;
    c.width = picture.widthPx;
    c.height = picture.heightPx;
    c.getContext('2d')!.putImageData(new ImageData(picture.rgba, picture.widthPx, picture.heightPx), 0, 0);
  }, [picture]);
  return <canvas ref={canvas} className={styles.canvas} data-stale={stale} />;
}
