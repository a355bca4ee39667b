// The scene from above, from the front or from the side, beside the view: cameras with their cones, and, to be dragged,
// lights, and the near and far planes and the depth range of the camera that is looked through.
import { SegmentedControl } from '@mantine/core';
import { useElementSize } from '@mantine/hooks';
import type { Camera } from '@variscen/contract';
import type { ResolvedState, SceneIndex } from '@variscen/core/looks';
import { type CameraSettings, type Rgb, planeCut } from '@variscen/core/scene';
import { useDeferredValue, useEffect, useMemo, useRef, useState } from 'react';
import { useMovedCamera } from '../../../session/cameraMoves.ts';
import type { ProjectSession } from '../../../session/projectSession.ts';
import { metres } from '../../../ui/format.ts';
import { DepthPicture } from '../cameras/DepthPicture.tsx';
import { type Outline, type P2, type Side, cone, fitted, planScene } from '../../../model/planGeometry.ts';
import { offPlane, planLightAt, planLights } from '../../../model/planLights.ts';
import { type Cut, PlaneCuts } from './PlaneCuts.tsx';
import styles from './PlanView.module.css';
import { drawPlan, toPxOf } from './planDrawing.ts';
import { type Handle, HANDLE_WORDS, distancesOf, withDistance } from './planHandles.ts';
import { useBodies } from './useBodies.ts';
import { LIGHT_REACH_PX, usePlanPointer } from './usePlanPointer.ts';
import { usePlanZoom } from './usePlanZoom.ts';

/** A camera is clicked within so many pixels of its eye. */
const CLICK_REACH_PX = 10;
const SIDES = [
  { value: 'top', label: 'Above' },
  { value: 'front', label: 'Front' },
  { value: 'side', label: 'Side' },
];

interface Props {
  sceneHash: string;
  /** The scene as the look places it. */
  index: SceneIndex;
  state: ResolvedState;
  cameras: readonly Camera[];
  camera: Camera | undefined;
  nodes: readonly number[];
  session: ProjectSession;
  depthOf: (camera: CameraSettings, widthPx: number, heightPx: number) => Float32Array | undefined;
  onLook: (id: string) => void;
  onLight: (node: number) => void;
  /** A light is put elsewhere, so many metres along the world's axes. */
  onLightMoved: (path: string, by: Rgb) => void;
}

export function PlanView(props: Props) {
  const { sceneHash, index, state, cameras, camera, nodes, session, depthOf, onLook, onLight, onLightMoved } = props;
  const canvas = useRef<HTMLCanvasElement>(null);
  const { ref: box, width, height } = useElementSize<HTMLDivElement>();
  const size = { width, height };
  const [side, setSide] = useState<Side>('top');
  const own = useDeferredValue(useMovedCamera(session.moves, camera))?.settings as CameraSettings | undefined;
  const standing = useMemo(() => planScene(index.document, state, side, own), [index, state, side, own]);
  const lights = useMemo(() => planLights(index.document, state, side), [index, state, side]);
  const zoom = usePlanZoom(sceneHash, side, size, () =>
    fitted(inFrame(standing.outlines), eyes(cameras, side), width, height),
  );
  const { view } = zoom;
  const keep = (c: CameraSettings) => {
    if (!camera) return;
    const { nearM, farM, depthRangeM } = c;
    session.changeCameras([camera.id], { settings: { nearM, farM, depthRangeM } });
  };
  const pointer = usePlanPointer({
    canvas,
    size,
    side,
    view,
    own,
    onView: zoom.put,
    onDragged: keep,
    onClick: (at) => {
      const toPx = toPxOf(size, view);
      const light = planLightAt(lights, at, toPx, LIGHT_REACH_PX);
      const hit = light ? undefined : cameraAt(cameras, side, at, toPx);
      if (light) onLight(light.node);
      else if (hit) onLook(hit.id);
    },
    lights,
    onLightMoved: (light, by) => onLightMoved(light.path, offPlane(side, by)),
  });
  const settings = pointer.draft ?? own;
  // what stands where changes only with the look; what the planes remove follows the hand
  const plan = useMemo(
    () => (settings === own ? standing : planScene(index.document, state, side, settings)),
    [standing, index, state, side, settings, own],
  );
  const bodies = useBodies(index, settings, plan.spans, [settings?.nearM, settings?.farM]);
  const cuts = settings ? cutsOf(settings, bodies) : [];
  useEffect(() => {
    drawPlan(canvas.current!, {
      size,
      view,
      side,
      outlines: plan.outlines,
      selected: new Set(nodes),
      cut: new Set(cuts.flatMap((x) => x.nodes)),
      lights: lights.map((l) => (l.node === pointer.draftLight?.node ? pointer.draftLight : l)),
      camera: camera && settings && { name: camera.name, settings },
      others: cameras
        .filter((c) => c.id !== camera?.id)
        .map((c) => ({ name: c.name, settings: c.settings as CameraSettings })),
    });
  });
  return (
    <section aria-label="Plan view" className={styles.planView}>
      <div className={styles.segmentedControlFrame}>
        <SegmentedControl
          size="xs"
          aria-label="Seen from"
          value={side}
          data={SIDES}
          onChange={(v) => setSide(v as Side)}
        />
        <button type="button" className={`quiet ${styles.quiet}`} onClick={zoom.showAll}>
          Show all
        </button>
      </div>
      <div ref={box} className={styles.settings}>
        <canvas
          ref={canvas}
          role="img"
          aria-label={labelOf(settings)}
          data-px-per-m={view.pxPerM.toFixed(3)}
          data-middle={`${view.x.toFixed(4)} ${view.y.toFixed(4)}`}
          className={styles.img}
          onPointerDown={pointer.down}
          onPointerMove={pointer.move}
          onPointerUp={pointer.up}
        />
        {settings && (
          <div className={styles.depthPictureFrame}>
            <DepthPicture settings={settings} state={state} depthOf={depthOf} />
          </div>
        )}
      </div>
      <PlaneCuts
        camera={settings}
        cuts={cuts}
        nameOf={(n) => index.document.nodes[n]!.name}
        onMove={(which, d) => {
          if (settings) keep(withDistance(settings, which, d));
        }}
      />
    </section>
  );
}

const inFrame = (outlines: readonly Outline[]): Outline[] =>
  outlines.filter((o) => o.state === 'kept' || o.state === 'before');
const eyeOf = (c: Camera, side: Side): P2 => cone(c.settings as CameraSettings, side, 0).eye;
const eyes = (cameras: readonly Camera[], side: Side): P2[] => cameras.map((c) => eyeOf(c, side));

function cameraAt(cameras: readonly Camera[], side: Side, [x, y]: P2, toPx: (p: P2) => P2): Camera | undefined {
  return cameras.find((c) => {
    const p = toPx(eyeOf(c, side));
    return Math.hypot(p[0] - x, p[1] - y) < CLICK_REACH_PX;
  });
}

function cutsOf(c: CameraSettings, bodies: Parameters<typeof planeCut>[1]): Cut[] {
  const cuts: Cut[] = [
    { which: 'near', ...planeCut(c.nearM, bodies) },
    { which: 'far', ...planeCut(c.farM, bodies) },
  ];
  return cuts.filter((x) => x.nodes.length > 0);
}

function labelOf(settings: CameraSettings | undefined): string {
  if (!settings) return 'Plan view';
  const distances = distancesOf(settings);
  const words = (['near', 'far', 'depthNear', 'depthFar'] as const satisfies readonly Handle[]).map(
    (h) => `${HANDLE_WORDS[h]} ${metres(distances[h])}`,
  );
  return `Plan view, ${words.join(', ')}`;
}
