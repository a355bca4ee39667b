// What is done to objects by hand in the view: picked, put somewhere else, dropped, given a material.
import type { Project } from '@variscen/contract';
import { type Placement, objectTarget } from '@variscen/core/looks';
import type { CameraSettings } from '@variscen/core/scene';
import { heightsBelow } from '../../engine/dropOnto.ts';
import { dropChanges, droppable, materialChanges, placementChanges } from '../../model/placing.ts';
import type { ProjectSession } from '../../session/projectSession.ts';
import { useAddress } from '../../ui/address.ts';
import { metres, plural } from '../../ui/format.ts';
import { say, sayError } from '../../ui/notify.ts';
import type { Pick as Pick3D } from '../../view3d/viewport.ts';
import type { Lights } from './lights/useLights.ts';
import type { Looking } from './useLooking.ts';
import type { Recording } from './useRecording.ts';
import type { Selection } from './useSelection.ts';
import type { Shown } from './useShown.ts';

interface Parts {
  readonly shown: Shown;
  readonly selection: Selection;
  readonly recording: Recording;
  readonly looking: Looking;
  readonly session: ProjectSession;
  readonly lights: Lights;
}

export type ScenePicks = ReturnType<typeof useScenePicks>;

export function useScenePicks(project: Project, { shown, selection, recording, looking, session, lights }: Parts) {
  const [, put] = useAddress();
  const { index, state, camera } = shown;
  const { nodes } = selection;

  const placed = (moved: readonly number[], placements: readonly Placement[]) => {
    if (index && state) recording.record(placementChanges(index.document, state, moved, placements));
  };

  /** Assigns a material: where one of several selected objects is meant, to all of them. */
  const assign = (material: string, onto: number, copyTarget?: string) => {
    if (!index || !state) return;
    const meant = nodes.includes(onto) ? nodes : [onto];
    const targets =
      copyTarget === undefined ? meant.map((n) => objectTarget(index.document.nodes[n]!.path)) : [copyTarget];
    const changes = materialChanges(state, targets, material);
    if (changes) recording.record(changes);
    else {
      say(
        'No single material can be assigned to it',
        'A group, a light, or an object with several materials: drop it onto an object with one, or edit the material itself.',
      );
    }
  };

  const drop = async () => {
    if (!index || !state || !camera || !project.revision) return;
    const tops = droppable(index.document, nodes);
    try {
      const heights = await heightsBelow({
        sceneHash: project.revision.sceneHash,
        changes: [...state.values.values()].map((v) => ({ target: v.target, property: v.property.id, value: v.value })),
        camera: camera.settings as CameraSettings,
        nodes: tops,
      });
      const changes = dropChanges(index.document, state, tops, heights);
      recording.record(changes);
      sayDropped(changes.length, heights);
    } catch (e) {
      sayError(e);
    }
  };

  const focusOn = (point: readonly [number, number, number]) => {
    looking.setPicking(null);
    if (!camera) return;
    const focusDistanceM = depthOf(camera.settings.matrix, point);
    if (focusDistanceM <= 0.001) return;
    session.changeCameras([camera.id], { settings: { focusDistanceM: Number(focusDistanceM.toFixed(4)) } });
  };

  const picked = (hit: Pick3D | null, more: boolean) => {
    if (looking.picking && looking.picking.for !== 'focus') lights.picked(hit);
    else if (hit?.kind === 'camera') {
      looking.look(hit.id);
      selection.selectCameras([hit.id]);
      put({ side: 'cameras' });
    } else if (looking.picking && camera && hit) focusOn(hit.point);
    else if (!hit) {
      if (!more) selection.select(null);
    } else if (hit.copy !== undefined && !more) selection.select(objectTarget(hit.copy));
    else selection.selectNodes(more ? selection.toggled(hit.node) : [hit.node]);
  };

  return { placed, assign, drop, picked };
}

/** Metres of a point before a camera, along its view. */
function depthOf(m: readonly number[], [x, y, z]: readonly [number, number, number]): number {
  const back = Math.hypot(m[8]!, m[9]!, m[10]!) || 1;
  return -((x - m[12]!) * m[8]! + (y - m[13]!) * m[9]! + (z - m[14]!) * m[10]!) / back;
}

function sayDropped(dropped: number, heights: readonly (number | null)[]): void {
  const none = heights.filter((h) => h === null).length;
  const stood = heights.filter((h) => h === 0).length;
  if (!dropped) {
    say(none ? 'Nothing lies below' : 'It stands on something already');
    return;
  }
  const by = dropped === 1 ? ` by ${metres(Math.max(...heights.map((h) => h ?? 0)))}` : '';
  const others = [
    stood ? `${plural(stood, 'object')} stood already.` : '',
    none ? `Nothing lies below ${none} of them.` : '',
  ];
  say(`${plural(dropped, 'object')} dropped${by}`, others.filter(Boolean).join(' '));
}
