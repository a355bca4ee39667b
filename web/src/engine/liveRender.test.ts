// What the live render asks the page's engine for. The worker stands still: what it is told is what counts.
import { SceneIndex, resolve } from '@variscen/core/looks';
import type { SceneDocument } from '@variscen/core/scene';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import type { Said } from './messages.ts';
import { NOTHING, StillWorker, shownNothing } from './stillWorker.ts';

vi.mock('./worker/engine.worker.ts?worker', async () => ({ default: (await import('./stillWorker.ts')).StillWorker }));
const { LiveRender } = await import('./liveRender.ts');

const shown = shownNothing;
const asked = () => StillWorker.told.flatMap((m) => (m.kind === 'ask' ? [m.id] : []));
const answer = (id: number, said: Said) => StillWorker.current.onmessage?.({ data: { id, said } });

beforeEach(() => void (StillWorker.told.length = 0));
afterEach(() => vi.useRealTimers());

it('asks once for the same light, and again when the first try failed', () => {
  const heard: Said[] = [];
  const live = new LiveRender('live', (said) => heard.push(said));
  live.show(shown);
  live.show(shown);
  expect(asked()).toHaveLength(1);
  answer(asked()[0]!, { kind: 'failed', message: 'The engine ran out of memory.' });
  expect(heard).toEqual([{ kind: 'failed', message: 'The engine ran out of memory.' }]);
  live.show(shown);
  expect(asked()).toHaveLength(2);
  // the first is not heard of any more
  answer(asked()[0]!, { kind: 'failed', message: 'late' });
  expect(heard).toHaveLength(1);
  live.forget();
});

it('changes lights in the picture that is there, and nothing else', () => {
  const lamp = { path: 'Lamp', name: 'Lamp', parent: -1, matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1] };
  const lit = {
    ...NOTHING,
    lights: [{ type: 'point', color: [1, 1, 1], intensity: 5, radiusM: 0 }],
    nodes: [{ ...lamp, light: 0 }],
  } as SceneDocument;
  const index = new SceneIndex(lit);
  const stateOf = (property: string, value: number) =>
    resolve(index, [{ id: 'x', name: '', kind: 'base', changes: [{ target: 'light:Lamp', property, value }] }]);
  const relights = () => StillWorker.told.filter((m) => m.kind === 'relight');
  const live = new LiveRender('live', () => undefined);
  expect(live.relight(shown)).toBe(false);
  live.show({ ...shown, state: stateOf('light.intensity', 5) });
  const [id] = asked();
  expect(live.relight({ ...shown, state: stateOf('light.intensity', 9) })).toBe(true);
  expect(relights()).toEqual([
    { kind: 'relight', id, changes: [{ target: 'light:Lamp', property: 'light.intensity', value: 9 }] },
  ]);
  expect(live.relight({ ...shown, state: stateOf('light.radius', 1) })).toBe(false);
  expect(live.relight({ ...shown, width: 65 })).toBe(false);
  expect(relights()).toHaveLength(1);
  live.forget();
});
