// A region of the live picture is marked off by dragging.
import type { Crop } from '@variscen/core/scene';
import { type PointerEvent, useEffect, useRef, useState } from 'react';
import styles from './LivePane.module.css';

/** Per cent of the frame: less is a click. */
const LEAST = 2;

interface Props {
  readonly onMarked: (region: Crop) => void;
  readonly onCancel: () => void;
}
export function RegionMarker({ onMarked, onCancel }: Props) {
  const from = useRef<readonly [number, number] | null>(null);
  const [region, setRegion] = useState<Crop | null>(null);
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.key !== 'Escape') return;
      e.preventDefault();
      e.stopPropagation();
      onCancel();
    };
    window.addEventListener('keydown', onKey, true);
    return () => window.removeEventListener('keydown', onKey, true);
  }, [onCancel]);
  const at = (e: PointerEvent): readonly [number, number] => {
    const box = e.currentTarget.getBoundingClientRect();
    const share = (x: number, size: number) => Math.min(100, Math.max(0, (x / size) * 100));
    return [share(e.clientX - box.left, box.width), share(e.clientY - box.top, box.height)];
  };
  return (
    <div
      className={styles.marker}
      aria-label="Drag over the region to sharpen"
      onPointerDown={(e) => {
        if (e.button !== 0) return;
        e.currentTarget.setPointerCapture(e.pointerId);
        from.current = at(e);
      }}
      onPointerMove={(e) => {
        if (from.current) setRegion(between(from.current, at(e)));
      }}
      onPointerUp={() => {
        from.current = null;
        if (region && region.right - region.left >= LEAST && region.bottom - region.top >= LEAST) onMarked(region);
        else setRegion(null);
      }}
    >
      {region && <i className={styles.marked} style={placeOf(region)} />}
    </div>
  );
}

function between(a: readonly [number, number], b: readonly [number, number]): Crop {
  return {
    left: Math.min(a[0], b[0]),
    top: Math.min(a[1], b[1]),
    right: Math.max(a[0], b[0]),
    bottom: Math.max(a[1], b[1]),
  };
}

/** Where a region lies in its frame. */
export const placeOf = ({ left, top, right, bottom }: Crop) => ({
  left: `${left}%`,
  top: `${top}%`,
  width: `${right - left}%`,
  height: `${bottom - top}%`,
});
