// The real-time view on the page: made for a scene, told of every change of what is shown, and listened to.
import type { Camera } from '@variscen/contract';
import type { Placement, ResolvedState, SceneIndex } from '@variscen/core/looks';
import { type CameraSettings, halfHeightOf } from '@variscen/core/scene';
import { type RefObject, useEffect, useRef, useState } from 'react';
import type { ShownCamera } from '../../../view3d/figures.ts';
import type { HandleMode } from '../../../view3d/handles.ts';
import { type FrameRect, type Pick, Viewport, type ViewReport } from '../../../view3d/viewport.ts';

/** The view is still when nothing has moved for so long. */
const STILL_MS = 250;
/** A camera's figure is as long as this share of the way to what it focuses on, and of the scene. */
const FIGURE_SHARE = 0.35;
const NUDGED_MS = 6000;

/** What hands do in the view. */
export interface ViewActions {
  readonly onPick: (hit: Pick | null, more: boolean) => void;
  readonly onBox: (nodes: number[], more: boolean) => void;
  readonly onCameraMoved: (matrix: number[]) => void;
  readonly onCameraRested: () => void;
  readonly onPlaced: (nodes: readonly number[], placements: readonly Placement[]) => void;
}
export interface ShownInView {
  readonly index: SceneIndex | undefined;
  readonly state: ResolvedState | undefined;
  readonly cameras: readonly Camera[];
  /** The one that is looked through. */
  readonly camera: Camera | undefined;
  /** A frame of an animated scene that is looked at without changing the camera; null: the camera's own. */
  readonly frame: number | null;
  readonly nodes: readonly number[];
  readonly handles: HandleMode | null;
  /** Paths of objects that are only hinted at. */
  readonly ghosts: ReadonlySet<string>;
}
/** The free view as a camera, and its place in the view. */
export interface Around {
  readonly camera: CameraSettings;
  readonly rect: FrameRect;
}
export interface ViewportState {
  readonly host: RefObject<HTMLDivElement | null>;
  readonly view: RefObject<Viewport | null>;
  /** The frame of the camera that is looked through, in pixels of the view. */
  readonly frame: FrameRect | null;
  readonly around: Around | null;
  readonly report: ViewReport | null;
  readonly fault: string | null;
  /** Somebody tried to move a locked camera a moment ago. */
  readonly nudged: boolean;
  readonly locked: boolean;
  forgetNudge(): void;
}

export function useViewport(shown: ShownInView, actions: ViewActions): ViewportState {
  const { index } = shown;
  const scene = index?.own;
  const host = useRef<HTMLDivElement>(null);
  const view = useRef<Viewport | null>(null);
  const latest = useRef(actions);
  const [around, setAround] = useState<Around | null>(null);
  const [nudged, setNudged] = useState(false);
  const [frame, setFrame] = useState<FrameRect | null>(null);
  const [report, setReport] = useState<ViewReport | null>(null);
  const [fault, setFault] = useState<string | null>(null);
  useEffect(() => {
    latest.current = actions;
  });
  useEffect(() => {
    if (!scene || !host.current) return;
    setFault(null);
    let still: ReturnType<typeof setTimeout> | undefined;
    try {
      const v = new Viewport(host.current, scene.document, {
        report: setReport,
        frame: setFrame,
        failed: setFault,
        nudged: () => setNudged(true),
        cameraMoved: (m) => latest.current.onCameraMoved(m),
        cameraRested: () => latest.current.onCameraRested(),
        placed: (n, p) => latest.current.onPlaced(n, p),
        pick: (hit, more) => latest.current.onPick(hit, more),
        box: (n, more) => latest.current.onBox(n, more),
        moved: () => {
          setAround(null);
          clearTimeout(still);
          still = setTimeout(() => setAround(aroundOf(v)), STILL_MS);
        },
      });
      view.current = v;
      return () => {
        clearTimeout(still);
        v.close();
        view.current = null;
      };
    } catch (e) {
      setFault(
        `The view needs WebGL 2, which this browser does not offer: ${e instanceof Error ? e.message : String(e)}`,
      );
      return undefined;
    }
  }, [scene]);
  const locked = useShownInView(view, shown);
  const { camera } = shown;
  useEffect(() => setNudged(false), [camera?.id, locked]);
  useEffect(() => {
    if (!nudged) return;
    const t = setTimeout(() => setNudged(false), NUDGED_MS);
    return () => clearTimeout(t);
  }, [nudged]);
  return { host, view, frame, around, report, fault, nudged, locked, forgetNudge: () => setNudged(false) };
}

/** Brings the view up to what is shown. Answers whether navigating leaves the camera where it is. */
function useShownInView(view: RefObject<Viewport | null>, shown: ShownInView): boolean {
  const { index, state, cameras, camera, frame, nodes, handles, ghosts } = shown;
  useEffect(() => {
    if (index) view.current?.setLights(index.document);
  }, [view, index]);
  useEffect(() => {
    if (state) view.current?.setState(state);
  }, [view, state, index]);
  useEffect(() => {
    view.current?.showGhosts(ghosts);
  }, [view, ghosts, index]);
  const settings = camera?.settings as CameraSettings | undefined;
  const locked = (camera?.handling.locked ?? false) || settings?.follows !== undefined;
  useEffect(() => {
    view.current?.lookThrough(settings ?? null, locked);
  }, [view, settings, locked, index]);
  useEffect(() => {
    if (frame !== null) view.current?.showFrame(frame);
  }, [view, frame, settings, index]);
  useEffect(() => {
    view.current?.select(nodes);
  }, [view, nodes, index]);
  useEffect(() => {
    view.current?.showHandles(handles);
  }, [view, handles, index]);
  useEffect(() => {
    // through a camera the picture is judged: figures would lie in it
    view.current?.showCameras((camera ? [] : cameras).map(figureOf), figureSize(cameras));
  }, [view, cameras, camera?.id, index]);
  return locked;
}

function aroundOf(view: Viewport): Around {
  const camera = view.freeCamera();
  return { camera, rect: { left: 0, top: 0, width: camera.widthPx, height: camera.heightPx } };
}

function figureOf(camera: Camera): ShownCamera {
  const s = camera.settings as CameraSettings;
  const halfHeight = halfHeightOf(s);
  return {
    id: camera.id,
    matrix: s.matrix,
    halfHeight,
    halfWidth: (halfHeight * s.widthPx) / s.heightPx,
    orthographic: s.projection === 'orthographic',
  };
}
function figureSize(cameras: readonly Camera[]): number {
  if (!cameras.length) return 1;
  return Math.min(...cameras.map((c) => c.settings.focusDistanceM)) * FIGURE_SHARE;
}
