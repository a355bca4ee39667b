// Lights that hands add, place, copy and take away.
import type { Project } from '@variscen/contract';
import {
  ADDED,
  AIM,
  type Change,
  type ResolvedState,
  freeName,
  isAddedPath,
  lightNames,
  lightPlace,
  lightTarget,
  parseAdded,
} from '@variscen/core/looks';
import { subjectOfCamera } from '@variscen/core/rigs';
import type { CameraSettings, LightType, Rgb } from '@variscen/core/scene';
import type { RefObject } from 'react';
import { destinationLabel } from '../../../model/destinations.ts';
import {
  type LightThere,
  type PlacingHow,
  type Stand,
  copyChanges,
  newLightChanges,
  standByCamera,
  standChanges,
  standFor,
  usualDistance,
} from '../../../model/lightPlacing.ts';
import { LIGHT_WORDS } from '../../../model/lightWords.ts';
import { lightsBefore } from '../../../model/lightsTogether.ts';
import type { ProjectSession } from '../../../session/projectSession.ts';
import { plural } from '../../../ui/format.ts';
import { say } from '../../../ui/notify.ts';
import type { Pick as Pick3D } from '../../../view3d/viewport.ts';
import type { Looking } from '../useLooking.ts';
import type { Recording } from '../useRecording.ts';
import type { Selection } from '../useSelection.ts';
import type { Shown } from '../useShown.ts';
import type { ViewHandle } from '../view/View.tsx';

interface Parts {
  readonly shown: Shown;
  readonly selection: Selection;
  readonly recording: Recording;
  readonly looking: Looking;
  readonly session: ProjectSession;
  readonly view: RefObject<ViewHandle | null>;
}
export type Lights = ReturnType<typeof useLights>;

export function useLights(project: Project, parts: Parts) {
  const { shown, selection, recording, looking, session, view } = parts;
  const { index, state, camera } = shown;

  /** A light as it stands in the look that is shown; undefined: it does not. */
  const thereOf = (path: string): LightThere | undefined => {
    const node = index?.nodes.get(path);
    const world = node === undefined ? undefined : view.current?.placeOf(node);
    const light = index?.light(path);
    return world && light && state && { path, type: light.type, matrix: lightPlace(state, path, world) };
  };

  const addAt = (type: LightType, stand: Stand) => {
    if (!index || !state) return;
    const { target, changes } = newLightChanges(
      index,
      state,
      type,
      freeName(lightNames(index), firstName(type)),
      stand,
    );
    recording.record(changes);
    selection.select(target);
  };

  /** The next click in the view says where it goes. */
  const begin = (type: LightType) => looking.setPicking({ for: 'place', light: type, isNew: true, how: 'lit' });
  const place = (path: string, how: PlacingHow) => looking.setPicking({ for: 'place', light: path, isNew: false, how });
  const aim = (targets: readonly string[]) => looking.setPicking({ for: 'aim', targets });

  const addByCamera = (type: LightType) => {
    const from = (camera && !looking.free ? (camera.settings as CameraSettings) : view.current?.viewed()) ?? undefined;
    looking.setPicking(null);
    if (from) addAt(type, standByCamera(from));
  };

  /** A click that was waited for. */
  const picked = (hit: Pick3D | null): void => {
    const { picking } = looking;
    if (!index || !state || hit?.kind !== 'node') return;
    if (picking?.for === 'aim') {
      const path = hit.copy ?? index.document.nodes[hit.node]!.path;
      recording.record(picking.targets.map((target): Change => ({ target, property: AIM, value: path })));
      looking.setPicking(null);
    }
    if (picking?.for !== 'place' || !hit.surface) return;
    const spot = { point: hit.point, ...hit.surface };
    looking.setPicking(null);
    if (picking.isNew) {
      addAt(picking.light as LightType, standFor(picking.how, spot, usualDistance(spot)));
      return;
    }
    const there = thereOf(picking.light);
    const node = index.nodes.get(picking.light);
    if (!there || node === undefined) return;
    // as far away as it stands now
    const [x, y, z] = there.matrix.slice(12, 15) as [number, number, number];
    const [px, py, pz] = hit.point;
    const distanceM = there.type === 'sun' ? usualDistance(spot) : Math.hypot(x - px, y - py, z - pz);
    const stand = standFor(picking.how, spot, Math.max(0.01, distanceM));
    recording.record(standChanges(index, state, lightTarget(picking.light), stand, view.current?.placeOf(node)));
  };

  /** So many metres further along the world's axes. */
  const move = (path: string, by: Rgb) => {
    const target = lightTarget(path);
    const now = state?.get(target, 'light.offset');
    if (!Array.isArray(now)) return;
    const value = (now as unknown as Rgb).map((x, k) => Number((x + by[k]!).toFixed(4))) as unknown as Rgb;
    recording.record([{ target, property: 'light.offset', value }]);
  };

  const copy = (paths: readonly string[], isMirrored: boolean) => {
    if (!index || !state) return;
    const changes: Change[] = [];
    const made: string[] = [];
    const taken = lightNames(index);
    for (const path of paths) {
      const there = thereOf(path);
      if (!there || (isMirrored && !camera)) continue;
      const name = freeName(taken, index.node(path)!.name);
      taken.add(name);
      const to = isMirrored ? { mirroredIn: camera!.settings as CameraSettings } : { shift: shiftOf(there) };
      const one = copyChanges(index, state, there, name, to);
      changes.push(...one.changes);
      made.push(one.target);
    }
    if (!changes.length) return;
    recording.record(changes);
    selection.select(made.at(-1)!);
  };

  /** Lights as they are, and what they are turned about: what the camera focuses on. */
  const together = (paths: readonly string[]) => {
    if (!index || !state || !camera) return null;
    const before = lightsBefore(index, state, paths, (node) => view.current?.placeOf(node));
    const pivot = subjectOfCamera(index.document, camera.settings as CameraSettings).middle;
    return before.length ? { before, pivot, last: [] } : null;
  };

  /** Takes added lights out of where they are added in the look that is shown. */
  const remove = async (paths: readonly string[]) => {
    if (!state) return;
    const by = new Map<string | undefined, string[]>();
    for (const path of paths.filter(isAddedPath)) {
      const from = adderOf(state, path);
      by.set(from, [...(by.get(from) ?? []), path]);
    }
    for (const [destination, own] of by) {
      if (!(await session.removeLights(own, destination))) return;
      const from = destination === undefined ? 'everywhere' : `from ${destinationLabel(project, destination)}`;
      const what = own.length === 1 ? `“${parseAdded(own[0]!)!.name}”` : plural(own.length, 'light');
      say(`${what} removed ${from}`, 'Ctrl+Z brings it back.');
    }
    selection.select(null);
  };

  const rename = async (path: string, name: string): Promise<boolean> => {
    const now = await session.renameLight(path, name);
    if (now !== undefined) selection.select(lightTarget(now));
    return now !== undefined;
  };

  return { begin, place, aim, addByCamera, picked, move, copy, together, remove, rename };
}

const firstName = (type: LightType): string => LIGHT_WORDS[type].replace(' light', '');
/** The destination that makes it stand in a look; undefined: it does not, and goes out of all. */
const adderOf = (state: ResolvedState, path: string): string | undefined =>
  state.get(lightTarget(path), ADDED) === true
    ? state.provenance(lightTarget(path), ADDED)?.layers.at(-1)?.id
    : undefined;
/** To the side, along its own X, so that both can be seen. */
function shiftOf({ matrix: m }: LightThere): [number, number, number] {
  const length = Math.hypot(m[0]!, m[1]!, m[2]!) || 1;
  const by = 0.3 / length;
  return [m[0]! * by, m[1]! * by, m[2]! * by];
}
