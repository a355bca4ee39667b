// The engine's own picture over the real-time view, in the frame of the camera or in the whole view, or of a region of
// it alone, which is sharp sooner; it restarts when what is shown changes.
import type { ResolvedState } from '@variscen/core/looks';
import type { CameraSettings, Crop } from '@variscen/core/scene';
import { useCallback, useEffect, useLayoutEffect, useRef, useState } from 'react';
import { type LiveTurn, useLiveTurn } from '../../../engine/useLiveTurn.ts';
import { LiveRender } from '../../../engine/liveRender.ts';
import type { Said } from '../../../engine/messages.ts';
import { bytes, plural } from '../../../ui/format.ts';
import type { Shown } from '../../../engine/wish.ts';
import type { FrameRect } from '../../../view3d/viewport.ts';
import styles from './LivePane.module.css';
import { RegionMarker, placeOf } from './RegionMarker.tsx';
import { useDrawn } from './useDrawn.ts';

const STILL_MS = 150;
/** While lights are changed in the picture that is there, nothing waits for a new one. */
const RELIT_STILL_MS = 500;
/** So long a new one waits until the one that is there is seen in the new lights. */
const RELIT_WITHIN_MS = 3000;
const ASKED_AGAIN_MS = 50;
/** After a change by itself the picture stays so long until the next one comes; where one follows another it goes. */
const KEPT_MS = 3000;
const FOLLOWS_MS = 400;
const GOOD_SAMPLES = 8;
/** Where it is asked for by a key. */
const MIDDLE: Crop = { left: 30, top: 30, right: 70, bottom: 70 };

interface Props {
  sceneHash: string;
  state: ResolvedState;
  camera: CameraSettings;
  rect: FrameRect;
  /** What is under it is not seen, until the next picture is good, or this one goes. */
  onCover: (isCovered: boolean) => void;
}
export function LivePane({ sceneHash, state, camera, rect, onCover }: Props) {
  const canvases = { whole: useRef<HTMLCanvasElement>(null), region: useRef<HTMLCanvasElement>(null) };
  const live = useRef<LiveRender | null>(null);
  /** What is shown, or waits for its turn. */
  const wanted = useRef<Shown | null>(null);
  const hear = useRef<(said: Said) => void>(() => undefined);
  const [said, setSaid] = useState('Starting …');
  const { drawn, came, stays, goes } = useDrawn(onCover);
  const [region, setRegion] = useState<Crop | null>(null);
  const [isMarking, setMarking] = useState(false);
  const turn = useLiveTurn();
  const isWaiting = turn.isRendering && turn.waits;
  /** Whether nobody looks, or others have the machine. */
  const rests = useRef<() => boolean>(() => false);
  rests.current = () => document.hidden || isWaiting;
  /** Whether what is there was seen in the lights that were asked for last, or cannot be. */
  const isAnswered = useRef(true);
  hear.current = (m) => {
    if (m.kind !== 'loading') isAnswered.current = true;
    if (m.kind === 'failed') setSaid(m.message);
    if (m.kind === 'failed' || m.kind === 'outdated') goes();
    if (m.kind === 'loading') setSaid(`Loading ${m.done} of ${m.of} …`);
    if (m.kind !== 'picture') return;
    // what comes of a wish before this one is not heard
    const which = wanted.current?.region ? 'region' : 'whole';
    if (!draw(canvases[which].current, m)) return;
    came(which, m.samples >= GOOD_SAMPLES);
    setSaid(pictureText(m));
  };
  useEffect(() => {
    const l = new LiveRender('live', (m) => hear.current(m));
    live.current = l;
    return () => {
      live.current = null;
      l.forget();
    };
  }, []);
  const { width, height } = rect;
  const place = JSON.stringify(camera); // the same camera may come in another object when a hand has let go of it
  const seen = useRef<readonly unknown[]>([]);
  const changedAt = useRef(0);
  const isSeen = useRef(false);
  isSeen.current = drawn.whole;
  // before the page is drawn, which takes a while itself where no card draws
  useLayoutEffect(() => {
    const view = [state, sceneHash, place, width, height];
    // another part of the same: what is there of the whole frame stays
    const isSameFrom = (first: number) =>
      seen.current.length > 0 && view.every((x, i) => i < first || x === seen.current[i]);
    const isSameView = isSameFrom(0);
    const isSamePlace = isSameFrom(1);
    seen.current = view;
    const isByItself = performance.now() - changedAt.current > FOLLOWS_MS;
    changedAt.current = performance.now();
    const shown = { sceneHash, state, camera, width, height, ...(region && { region }) };
    isAnswered.current = false;
    const isRelit = !isSameView && (live.current?.relight(shown) ?? false);
    const latest = performance.now() + RELIT_WITHIN_MS;
    if (isSameView || !isRelit) live.current?.mute();
    // what is under it shows a change at once; one by itself is waited for, and one of lights alone is seen in the
    // picture
    const isKept = isSamePlace && !isSameView && !isRelit && isByItself && isSeen.current;
    const covers = isKept || (isRelit && !region);
    stays({ whole: isSameView || (isRelit && !region), region: isRelit && region !== null }, covers ? KEPT_MS : 0);
    wanted.current = shown;
    let wait: ReturnType<typeof setTimeout> | undefined;
    const show = () => {
      if (isRelit && !isAnswered.current && performance.now() < latest) wait = setTimeout(show, ASKED_AGAIN_MS);
      else if (!rests.current()) live.current?.show(shown, isRelit);
    };
    if (isKept) show();
    else wait = setTimeout(show, isRelit ? RELIT_STILL_MS : STILL_MS);
    return () => clearTimeout(wait);
  }, [sceneHash, state, place, width, height, region, stays]);
  const waited = useRef(isWaiting);
  // meanwhile the machine is left to others; what was there is shown until it is as good again
  useEffect(() => {
    const changed = () => {
      if (rests.current()) live.current?.forget();
      else if (wanted.current) live.current?.show(wanted.current, true);
    };
    if (waited.current !== isWaiting) changed();
    waited.current = isWaiting;
    document.addEventListener('visibilitychange', changed);
    return () => document.removeEventListener('visibilitychange', changed);
  }, [isWaiting]);
  const mark = useCallback((marked: Crop) => {
    setMarking(false);
    setRegion(marked);
  }, []);
  const cancel = useCallback(() => setMarking(false), []);
  const isDrawn = drawn[region ? 'region' : 'whole'];
  return (
    <div className={styles.box} style={rect}>
      <canvas
        ref={canvases.whole}
        aria-label="Live render"
        role="img"
        className={styles.liveRender}
        data-drawn={drawn.whole}
      />
      {region && (
        <div className={styles.region} style={placeOf(region)}>
          <canvas
            ref={canvases.region}
            aria-label="Live render of the region"
            role="img"
            className={styles.liveRender}
            data-drawn={drawn.region}
          />
        </div>
      )}
      {isMarking && <RegionMarker onMarked={mark} onCancel={cancel} />}
      <span className={styles.live} data-live={isDrawn ? 'drawn' : 'waiting'}>
        <span className="mono">
          {region ? 'Live, region' : 'Live'} · {isWaiting ? 'waits for the queue' : said}
        </span>
        <TurnButton turn={turn} />
        <RegionButton
          isMarking={isMarking}
          region={region}
          onMark={setMarking}
          onRegion={(r) => {
            setMarking(false);
            setRegion(r);
          }}
        />
      </span>
    </div>
  );
}

/** There while it matters. */
function TurnButton({ turn: { isRendering, waits, setWaits } }: { turn: LiveTurn }) {
  if (!isRendering) return null;
  return (
    <button
      type="button"
      className={styles.act}
      title={
        waits
          ? 'Render live while the queue renders: its node steps back while somebody edits'
          : 'The queue’s node has the machine to itself, and the live render goes on after it'
      }
      onClick={() => setWaits(!waits)}
    >
      {waits ? 'Render now' : 'Let the queue go first'}
    </button>
  );
}

interface RegionButtonProps {
  readonly isMarking: boolean;
  readonly region: Crop | null;
  readonly onMark: (isMarking: boolean) => void;
  readonly onRegion: (region: Crop | null) => void;
}
/** By a key, which cannot drag, it is the middle. */
function RegionButton({ isMarking, region, onMark, onRegion }: RegionButtonProps) {
  if (region)
    return (
      <button type="button" className={styles.act} onClick={() => onRegion(null)}>
        Whole frame
      </button>
    );
  return (
    <button
      type="button"
      className={styles.act}
      aria-pressed={isMarking}
      title="Sharpen a region alone: drag over it"
      onClick={(e) => (e.detail === 0 ? onRegion(MIDDLE) : onMark(!isMarking))}
    >
      {isMarking ? 'Drag over a region' : 'Region'}
    </button>
  );
}

type Drawn = Extract<Said, { kind: 'picture' }>;
function draw(canvas: HTMLCanvasElement | null, { rgba, widthPx, heightPx }: Drawn): boolean {
  if (!canvas) return false;
  canvas.width = widthPx;
  canvas.height = heightPx;
  canvas.getContext('2d')!.putImageData(new ImageData(rgba, widthPx, heightPx), 0, 0);
  return true;
}
function pictureText({ samples, seconds, memoryBytes, threads, finished }: Drawn): string {
  const many = threads === 1 ? '' : ` · ${threads} threads`;
  const done = finished ? ' · done' : '';
  return `${plural(samples, 'sample')} · ${seconds.toFixed(1)} s · ${bytes(memoryBytes)}${many}${done}`;
}
