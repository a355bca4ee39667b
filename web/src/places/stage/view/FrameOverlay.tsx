// Over the view, where the frame of the camera lies: its plate, its guides, its render region, its numbers.
import type { Camera } from '@variscen/contract';
import type { CameraHandling, CameraSettings } from '@variscen/core/scene';
import { pathOf } from '../../../api/client.ts';
import type { FrameRect } from '../../../view3d/viewport.ts';
import { MatchOverlay } from '../match/MatchOverlay.tsx';
import type { Matching } from '../match/useMatching.ts';
import styles from './View.module.css';

/** A frame narrower than this has no room for two lines of text over it. */
const NARROW_PX = 430;
const PLATE_FIT = { fit: 'contain', fill: 'cover', stretch: 'fill' } as const;

interface Props {
  camera: Camera;
  frame: FrameRect;
  locked: boolean;
  matching: Matching;
  /** The look has the camera's plate behind all. */
  isPlateBehind: boolean;
}
export function FrameOverlay({ camera, frame, locked, matching, isPlateBehind }: Props) {
  const { lines, found, draw } = matching;
  const settings = camera.settings as CameraSettings;
  const { crop } = settings;
  return (
    <div className={styles.plate} style={frame}>
      {camera.handling.plate && (lines !== null || !isPlateBehind) && (
        <Plate plate={camera.handling.plate} isAlone={lines !== null} />
      )}
      <Guides guides={camera.handling.guides} width={frame.width} height={frame.height} />
      {crop && (
        <i
          className={styles.mark}
          style={{
            left: `${crop.left}%`,
            top: `${crop.top}%`,
            right: `${100 - crop.right}%`,
            bottom: `${100 - crop.bottom}%`,
          }}
        />
      )}
      {lines && <MatchOverlay lines={lines} found={found} frame={frame} onDraw={draw} />}
      <span className={`mono dim ${styles.projection}`}>
        {lensText(settings)}
        {settings.fStop !== null && ` · f/${settings.fStop}`} · {settings.focusDistanceM.toFixed(2)} m to focus
        {locked && ' · locked'}
      </span>
      <span className={`mono dim ${styles.widthPx}`} data-below={frame.width < NARROW_PX}>
        {settings.widthPx} × {settings.heightPx}
      </span>
    </div>
  );
}

function lensText(s: CameraSettings): string {
  return s.projection === 'perspective'
    ? `${Number(s.focalLengthMm.toPrecision(3))} mm`
    : `${Number((s.orthoHalfHeightM * 2).toPrecision(3))} m high`;
}

/** @param isAlone it is looked at by itself, as it lies under pictures: filling the frame */
function Plate({ plate, isAlone }: { plate: NonNullable<CameraHandling['plate']>; isAlone: boolean }) {
  return (
    <img
      alt=""
      src={pathOf('asset', { hash: plate.hash })}
      className={styles.picture}
      style={{ opacity: isAlone ? 1 : plate.opacity, objectFit: isAlone ? 'cover' : PLATE_FIT[plate.fit] }}
    />
  );
}

interface GuidesProps {
  guides: CameraHandling['guides'];
  width: number;
  height: number;
}
function Guides({ guides, width, height }: GuidesProps) {
  const at = (x1: number, y1: number, x2: number, y2: number) => (
    <line key={`${x1} ${y1} ${x2} ${y2}`} x1={x1 * width} y1={y1 * height} x2={x2 * width} y2={y2 * height} />
  );
  const inset = (k: number) => (
    <rect key={k} x={width * k} y={height * k} width={width * (1 - 2 * k)} height={height * (1 - 2 * k)} />
  );
  return (
    <svg width={width} height={height} className={styles.includes} fill="none" stroke="#ffffff40" aria-hidden>
      {guides.includes('thirds') && [1 / 3, 2 / 3].flatMap((k) => [at(k, 0, k, 1), at(0, k, 1, k)])}
      {guides.includes('centre') && [
        at(0.5, 0.46, 0.5, 0.54),
        at(0.5 - (0.04 * height) / width, 0.5, 0.5 + (0.04 * height) / width, 0.5),
      ]}
      {guides.includes('safe') && [inset(0.05), inset(0.1)]}
      {guides.includes('diagonals') && [at(0, 0, 1, 1), at(0, 1, 1, 0)]}
    </svg>
  );
}
