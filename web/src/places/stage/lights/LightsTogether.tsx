// Sliders over the lights that are selected: what they do counts from how the lights were when the first of them was
// moved.
import { type Change, type ResolvedState, type SceneIndex, sameValue } from '@variscen/core/looks';
import { PLAIN_RIG, type RigSettings } from '@variscen/core/rigs';
import type { Rgb } from '@variscen/core/scene';
import { useRef, useState } from 'react';
import { type LightBefore, changedTogether } from '../../../model/lightsTogether.ts';
import { type Gesture, useGesture } from '../../../ui/gesture.ts';
import { RigSliders } from '../rigs/RigSliders.tsx';
import type { Lights } from './useLights.ts';

interface Props {
  index: SceneIndex;
  state: ResolvedState;
  lights: Lights;
  paths: readonly string[];
  record: (changes: readonly Change[]) => void;
}
interface From {
  readonly before: readonly LightBefore[];
  readonly pivot: Rgb;
  /** What was recorded last: anything else there now was done by other hands. */
  readonly last: readonly Change[];
}

export function LightsTogether({ index, state, lights, paths, record }: Props) {
  const [settings, setSettings] = useState(PLAIN_RIG);
  const from = useRef<From | null>(null);
  const gesture = useRef<Gesture | null>(null);
  const begin = useGesture();

  const change = (more: Partial<RigSettings>) => {
    const isOurs = from.current?.last.every((c) => sameValue(state.get(c.target, c.property), c.value)) ?? false;
    const start = isOurs ? from.current : lights.together(paths);
    if (!start) return;
    const next = { ...(isOurs ? settings : PLAIN_RIG), ...more };
    gesture.current ??= begin();
    const changes = changedTogether(index, state, start.before, start.pivot, next);
    const differs = changes.filter((c) => !sameValue(state.get(c.target, c.property), c.value));
    from.current = { before: start.before, pivot: start.pivot, last: changes };
    setSettings(next);
    if (differs.length) record(differs);
  };
  const end = () => {
    gesture.current?.end();
    gesture.current = null;
  };
  return <RigSliders settings={settings} onChange={change} onEnd={end} />;
}
