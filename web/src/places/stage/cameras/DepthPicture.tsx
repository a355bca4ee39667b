// A small picture of the depth AOV: black at the start of the range, white at its end and beyond; without a range of
// its own, fitted to what is seen. Made once for a camera's place; a dragged range only maps it anew, so that it
// follows the hand.
import type { ResolvedState } from '@variscen/core/looks';
import { type CameraSettings, depthRangeM } from '@variscen/core/scene';
import { useEffect, useMemo, useRef, useState } from 'react';
import { fittedRange } from '../../../model/fittedRange.ts';
import { metres } from '../../../ui/format.ts';
import styles from './DepthPicture.module.css';

const LONG_PX = 132;
const REST_MS = 250;

export function DepthPicture({
  settings,
  state,
  depthOf,
}: {
  settings: CameraSettings;
  state: ResolvedState;
  depthOf: (camera: CameraSettings, widthPx: number, heightPx: number) => Float32Array | undefined;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const [depth, setDepth] = useState<{ data: Float32Array; width: number; height: number } | null>(null);
  const { depthRangeM: _, ...place } = settings;
  const key = JSON.stringify(place);
  useEffect(() => {
    const aspect = settings.widthPx / settings.heightPx;
    const width = Math.max(1, Math.round(aspect >= 1 ? LONG_PX : LONG_PX * aspect));
    const height = Math.max(1, Math.round(aspect >= 1 ? LONG_PX / aspect : LONG_PX));
    let wait: ReturnType<typeof setTimeout>;
    const make = () => {
      const data = depthOf(settings, width, height);
      if (data) setDepth({ data, width, height });
      else wait = setTimeout(make, REST_MS); // the scene is still on its way
    };
    wait = setTimeout(make, REST_MS);
    return () => clearTimeout(wait);
  }, [key, state, depthOf]);
  const isSet = settings.depthRangeM !== undefined;
  const { farM } = settings;
  const [near, far] = useMemo(
    () => (isSet || !depth ? depthRangeM(settings) : fittedRange(depth.data, farM)),
    [isSet, depth, settings, farM],
  );
  useEffect(() => {
    const c = canvas.current;
    if (!c || !depth) return;
    c.width = depth.width;
    c.height = depth.height;
    const g = c.getContext('2d')!;
    const image = g.createImageData(depth.width, depth.height);
    for (let i = 0; i < depth.data.length; i++) {
      const v = Math.round(255 * Math.min(1, Math.max(0, (depth.data[i]! - near) / Math.max(1e-6, far - near))));
      image.data.set([v, v, v, 255], i * 4);
    }
    g.putImageData(image, 0, 0);
  }, [depth, near, far]);
  return (
    <canvas
      ref={canvas}
      role="img"
      aria-label="Depth picture"
      title={
        isSet
          ? undefined
          : `Fitted to what is seen: ${metres(near)} to ${metres(far)}. The depth AOV goes from plane to plane.`
      }
      data-depth={depth ? 'yes' : 'no'}
      className={styles.depthPicture}
      hidden={!depth}
    />
  );
}
