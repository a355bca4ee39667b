// The real-time view with the camera's frame in it: its guides, its plate, and the live render over it.
import type { Camera } from '@variscen/contract';
import { type ResolvedState, parseImage } from '@variscen/core/looks';
import type { CameraSettings, Matrix } from '@variscen/core/scene';
import { type DragEvent, type ReactNode, type RefObject, useCallback, useImperativeHandle, useState } from 'react';
import { MATERIAL_DRAG } from '../../../model/materialDrag.ts';
import { type CameraMoves, useMovedCamera } from '../../../session/cameraMoves.ts';
import { count } from '../../../ui/format.ts';
import type { HandleMode } from '../../../view3d/handles.ts';
import type { FrameRect, Pick, ViewReport } from '../../../view3d/viewport.ts';
import type { Matching } from '../match/useMatching.ts';
import { LivePane } from '../live/LivePane.tsx';
import { FrameOverlay } from './FrameOverlay.tsx';
import { LockedNote } from './LockedNote.tsx';
import styles from './View.module.css';
import { ViewTools } from './ViewTools.tsx';
import { type ShownInView, type ViewActions, useViewport } from './useViewport.ts';

export interface ViewHandle {
  bringIntoView(): void;
  viewed(): CameraSettings | undefined;
  /** Where a node stands in the look that is shown, in the world. */
  placeOf(node: number): Matrix | undefined;
  depth(camera: CameraSettings, widthPx: number, heightPx: number): Float32Array | undefined;
}
interface Props {
  handle: RefObject<ViewHandle | null>;
  sceneHash: string;
  shown: Omit<ShownInView, 'handles'>;
  actions: ViewActions;
  /** Cameras on their way, which the live render follows. */
  moves: CameraMoves;
  picking: boolean;
  matching: Matching;
  onUnlock: () => void;
  onLookAround: () => void;
  /** Lets what is selected down until it touches. */
  onDrop: () => void;
  /** A material was let go over a thing. */
  onMaterial: (material: string, hit: Extract<Pick, { kind: 'node' }>) => void;
  tools?: ReactNode;
  /** Said over the view. */
  note?: ReactNode;
}

export function View(props: Props) {
  const {
    handle,
    sceneHash,
    shown,
    actions,
    moves,
    picking,
    matching,
    onUnlock,
    onLookAround,
    onDrop,
    onMaterial,
    tools,
    note,
  } = props;
  const { camera, state, nodes } = shown;
  const [live, setLive] = useState(false);
  const [handles, setHandles] = useState<HandleMode | null>(null);
  const { host, view, frame, around, report, fault, nudged, locked, forgetNudge } = useViewport(
    { ...shown, handles },
    actions,
  );
  useImperativeHandle(
    handle,
    () => ({
      bringIntoView: () => view.current?.bringIntoView(),
      viewed: () => view.current?.freeCamera(),
      placeOf: (node) => view.current?.placeOf(node),
      depth: (c, w, h) => view.current?.depthPicture(c, w, h),
    }),
    [view],
  );
  const onCover = useCallback((isCovered: boolean) => view.current?.cover(isCovered), [view]);
  const dropped = (e: DragEvent) => {
    const material = e.dataTransfer.getData(MATERIAL_DRAG);
    const box = host.current?.getBoundingClientRect();
    const hit = material && box ? view.current?.pick(e.clientX - box.left, e.clientY - box.top) : undefined;
    if (hit?.kind !== 'node') return;
    e.preventDefault();
    onMaterial(material, hit);
  };
  const then = (act: () => void) => () => {
    forgetNudge();
    act();
  };
  return (
    <section
      aria-label="View"
      onDragOver={allowMaterial}
      onDrop={dropped}
      className={styles.view}
      data-picking={picking}
    >
      <div ref={host} className={styles.live} />
      {live && state && camera && frame && (
        <LiveThrough {...{ sceneHash, state, camera, moves, onCover }} rect={frame} />
      )}
      {live && state && !camera && around && (
        <LivePane {...{ sceneHash, state, onCover }} camera={around.camera} rect={around.rect} />
      )}
      {frame && camera && (
        <FrameOverlay
          camera={camera}
          frame={frame}
          locked={locked}
          matching={matching}
          isPlateBehind={isBehind(camera, state)}
        />
      )}
      {nudged && camera && <LockedNote camera={camera} onLookAround={then(onLookAround)} onUnlock={then(onUnlock)} />}
      {note}
      <ViewTools
        isAnythingSelected={nodes.length > 0}
        handles={handles}
        onHandles={setHandles}
        onIntoView={() => view.current?.bringIntoView()}
        onDrop={onDrop}
        live={live}
        onLive={setLive}
      >
        {tools}
      </ViewTools>
      <div
        className={`mono faint ellipsis ${styles.loadReport}`}
        title={reportTitle(report)}
        role="status"
        data-loaded={report && report.loaded === report.meshes ? 'yes' : 'no'}
      >
        {fault ?? reportText(report)}
      </div>
    </section>
  );
}

interface LiveThroughProps {
  sceneHash: string;
  state: ResolvedState;
  camera: Camera;
  rect: FrameRect;
  moves: CameraMoves;
  onCover: (isCovered: boolean) => void;
}
/** The live render through a camera, also while a hand moves it. */
function LiveThrough({ camera, moves, ...shown }: LiveThroughProps) {
  const { settings } = useMovedCamera(moves, camera);
  return <LivePane {...shown} camera={settings as CameraSettings} />;
}

/** Whether the look has the camera's plate behind all: then it is not laid over the view, too. */
function isBehind({ handling }: Camera, state: ResolvedState | undefined): boolean {
  const image = parseImage(state?.get('environment', 'environment.plate'));
  return image !== undefined && image.blob === handling.plate?.hash;
}

function allowMaterial(e: DragEvent): void {
  if (!e.dataTransfer.types.includes(MATERIAL_DRAG)) return;
  e.preventDefault();
  e.dataTransfer.dropEffect = 'copy';
}

function reportText(report: ViewReport | null): string {
  if (!report) return 'Loading the scene …';
  if (report.loaded < report.meshes) return `Loading ${report.loaded} of ${report.meshes} meshes …`;
  const some = ` · ${report.lightsShown} of ${report.lights} lights`;
  return `${count(report.triangles)} triangles${report.lightsShown < report.lights ? some : ''}`;
}

function reportTitle(report: ViewReport | null): string | undefined {
  if (!report || report.lightsShown >= report.lights) return undefined;
  return `The view shows the ${report.lightsShown} strongest lights; renders show all ${report.lights}.`;
}
