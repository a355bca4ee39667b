// Where the plan is looked at: once fitted it stays, whatever is edited, until another scene or "Show all".
import { useEffect, useState } from 'react';
import type { PlanView, Side } from '../../../model/planGeometry.ts';
import type { Size } from './planDrawing.ts';

export interface PlanZoom {
  readonly view: PlanView;
  put(view: PlanView): void;
  /** Fits it anew. */
  showAll(): void;
}

/** @param fit the view that shows everything; asked for only where there is none yet for a side */
export function usePlanZoom(sceneHash: string, side: Side, size: Size, fit: () => PlanView): PlanZoom {
  const [views, setViews] = useState<{ readonly sceneHash: string; readonly of: Partial<Record<Side, PlanView>> }>({
    sceneHash,
    of: {},
  });
  const own = views.sceneHash === sceneHash ? views.of[side] : undefined;
  const view = own ?? fit();
  const put = (next: PlanView | undefined) =>
    setViews((now) => ({
      sceneHash,
      of: { ...(now.sceneHash === sceneHash && now.of), [side]: next } as Partial<Record<Side, PlanView>>,
    }));
  const isSized = size.width > 0 && size.height > 0;
  useEffect(() => {
    if (!own && isSized) put(view);
  });
  return { view, put, showAll: () => put(undefined) };
}
