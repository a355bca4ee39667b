// A picture, to be moved and zoomed by hand.
import { useElementSize } from '@mantine/hooks';
import { type PointerEvent, type ReactNode, type WheelEvent, useEffect, useRef, useState } from 'react';
import {
  type Box,
  type View,
  FITTED,
  atFullSize,
  movedBy,
  pixelAt,
  placeAt,
  placed,
  zoomedAt,
} from '../../model/review/view.ts';
import { type Painted, Painter } from '../../pictures/painter.ts';
import { pictures } from '../../pictures/pictureService.ts';
import styles from './PicturePane.module.css';

export type Point = readonly [number, number];
/** In shares of the picture's width and height. */
export interface Frame {
  readonly from: Point;
  readonly to: Point;
}
export interface Hands {
  /** What dragging does: moves the picture, draws on it, or marks off a region. */
  readonly dragging: 'move' | 'draw' | 'region';
  readonly onDrawn: (points: readonly Point[]) => void;
  readonly onRegion: (region: Frame | null) => void;
  /** A place of the picture was clicked, where dragging moves it. */
  readonly onClick: (at: Point) => void;
}
interface Props {
  readonly label: string;
  readonly painted: Painted | undefined;
  readonly picture: Box;
  /** Shown until its tiles are there. */
  readonly poster: string | undefined;
  readonly view: View;
  readonly onView: (view: View) => void;
  readonly onHover: (pixel: Point | null) => void;
  readonly hands: Hands;
  /** Drawn over it, in shares of the picture. */
  readonly over?: (at: OverPicture) => ReactNode;
}
/** A turn of the wheel by its usual notch. */
const ZOOM_A_NOTCH = 1.2;
const NOTCH = 100;
/** A hand that clicks is not quite still. */
const STILL_PX = 3;
/** In shares: what is drawn need not be finer. */
const FINEST = 0.002;

export function PicturePane({ label, painted, picture, poster, view, onView, onHover, hands, over }: Props) {
  const { ref: frame, width, height } = useElementSize<HTMLDivElement>();
  const box = { widthPx: width, heightPx: height };
  const canvas = useRef<HTMLCanvasElement>(null);
  const painter = useRef<Painter | null>(null);
  const [fault, setFault] = useState<string | null>(null);
  useEffect(() => {
    const made = (painter.current = new Painter(canvas.current!, pictures, (e) => setFault(e.message)));
    return () => made.close();
  }, []);
  useEffect(() => setFault(null), [painted]);
  useEffect(() => painter.current?.under(poster ?? '', poster), [poster]);
  useEffect(() => {
    if (width > 0 && height > 0) painter.current?.show(painted, view, { widthPx: width, heightPx: height });
  }, [painted, view, width, height]);
  const drag = useDragging({ picture, box, view, onView, hands });
  const where = placed(picture, box, view);
  const at = { ...where, widthPx: picture.widthPx * where.scale, heightPx: picture.heightPx * where.scale };
  const pointOf = (e: { clientX: number; clientY: number; currentTarget: Element }): Point => {
    const { left, top } = e.currentTarget.getBoundingClientRect();
    return [e.clientX - left, e.clientY - top];
  };
  const onWheel = (e: WheelEvent<HTMLDivElement>) => {
    const by = ZOOM_A_NOTCH ** (-e.deltaY / NOTCH);
    onView(zoomedAt(picture, box, view, by, pointOf(e)));
  };
  return (
    <div
      ref={frame}
      className={styles.pane}
      data-dragging={hands.dragging}
      onWheel={onWheel}
      onDoubleClick={() => onView(view.zoom === 1 ? atFullSize(picture, box, view, devicePixelRatio) : FITTED)}
      onPointerDown={(e) => drag.begin(e, pointOf(e))}
      onPointerMove={(e) => {
        drag.move(pointOf(e));
        onHover(pixelAt(picture, box, view, pointOf(e)));
      }}
      onPointerUp={() => drag.end()}
      onPointerCancel={() => drag.cancel()}
      onPointerLeave={() => onHover(null)}
    >
      <canvas ref={canvas} role="img" aria-label={label} className={styles.canvas} />
      <svg className={styles.over} aria-hidden>
        {width > 0 && over?.(at)}
        {drag.drawn.length > 1 && <Stroke points={drag.drawn} at={at} />}
        {drag.region && <RegionFrame region={drag.region} at={at} />}
      </svg>
      {fault && <p className={`notice ${styles.fault}`}>{fault}</p>}
    </div>
  );
}

/** Where the picture lies in the pane. */
export interface OverPicture {
  readonly left: number;
  readonly top: number;
  readonly widthPx: number;
  readonly heightPx: number;
}
const NAME_ABOVE_PX = 4;
export function Stroke({ points, at }: { points: readonly Point[]; at: OverPicture }) {
  const d = points.map(([x, y]) => `${at.left + x * at.widthPx} ${at.top + y * at.heightPx}`).join('L');
  // a single touch is a dot
  const path = points.length === 1 ? `M${d}h0` : `M${d}`;
  return (
    <g className={styles.stroke}>
      <path d={path} />
      <path d={path} />
    </g>
  );
}
/** @param name of one that is kept */
export function RegionFrame({ region, at, name }: { region: Frame; at: OverPicture; name?: string }) {
  const { from, to } = region;
  const x = at.left + Math.min(from[0], to[0]) * at.widthPx;
  const y = at.top + Math.min(from[1], to[1]) * at.heightPx;
  const size = {
    width: Math.abs(to[0] - from[0]) * at.widthPx,
    height: Math.abs(to[1] - from[1]) * at.heightPx,
  };
  if (name === undefined) return <rect className={styles.region} x={x} y={y} {...size} />;
  return (
    <g className={styles.keptRegion}>
      <rect x={x} y={y} {...size} />
      <text x={x + 1} y={y - NAME_ABOVE_PX}>
        {name}
      </text>
    </g>
  );
}

interface Dragged {
  readonly picture: Box;
  readonly box: Box;
  readonly view: View;
  readonly onView: (view: View) => void;
  readonly hands: Hands;
}
/** Shift marks off a region, whatever dragging does otherwise. */
function useDragging({ picture, box, view, onView, hands }: Dragged) {
  const [drawn, setDrawn] = useState<readonly Point[]>([]);
  const [region, setRegion] = useState<Frame | null>(null);
  const held = useRef<{ readonly does: Hands['dragging']; readonly first: Point; last: Point } | null>(null);
  const onPicture = (at: Point): Point => {
    const [u, v] = placeAt(picture, box, view, at);
    return [Math.min(1, Math.max(0, u)), Math.min(1, Math.max(0, v))];
  };
  const isOnPicture = (at: Point) => placeAt(picture, box, view, at).every((share) => share >= 0 && share <= 1);
  const cancel = () => {
    held.current = null;
    setDrawn([]);
    setRegion(null);
  };
  return {
    drawn,
    region,
    cancel,
    begin: (e: PointerEvent<HTMLDivElement>, at: Point) => {
      if (e.button !== 0) return;
      e.currentTarget.setPointerCapture(e.pointerId);
      const does = e.shiftKey ? 'region' : hands.dragging;
      held.current = { does, first: at, last: at };
      if (does === 'draw') setDrawn([onPicture(at)]);
      if (does === 'region') setRegion({ from: onPicture(at), to: onPicture(at) });
    },
    move: (at: Point) => {
      const now = held.current;
      if (!now) return;
      const by = [at[0] - now.last[0], at[1] - now.last[1]] as const;
      now.last = at;
      if (now.does === 'move') onView(movedBy(picture, box, view, by));
      else if (now.does === 'draw') setDrawn((points) => withPoint(points, onPicture(at)));
      else setRegion((p) => p && { ...p, to: onPicture(at) });
    },
    end: () => {
      const { does, first, last } = held.current ?? {};
      const isStill = first && last && Math.hypot(last[0] - first[0], last[1] - first[1]) < STILL_PX;
      if (does === 'move' && isStill && isOnPicture(first)) hands.onClick(onPicture(first));
      if (does === 'draw' && drawn.length) hands.onDrawn(drawn);
      if (does === 'region') hands.onRegion(region && isArea(region) ? region : null);
      cancel();
    },
  };
}
const withPoint = (points: readonly Point[], p: Point): readonly Point[] => {
  const last = points.at(-1);
  return last && Math.hypot(p[0] - last[0], p[1] - last[1]) < FINEST ? points : [...points, p];
};
const isArea = ({ from, to }: Frame): boolean =>
  Math.abs(from[0] - to[0]) > FINEST && Math.abs(from[1] - to[1]) > FINEST;
