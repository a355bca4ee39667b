// Edits on their way from the page to the server, over a stand-in of the server that keeps what it is sent and answers
// when the test lets it.
import { QueryClient, QueryObserver } from '@tanstack/react-query';
import type { Camera, Project } from '@variscen/contract';
import { type Change, keyOf, mergeChanges, withoutChanges } from '@variscen/core/looks';
import { IDENTITY, type SceneDocument, cameraForScene } from '@variscen/core/scene';
import fc from 'fast-check';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { keys } from '../api/queries.ts';
import {
  destinationLabel,
  destinationOf,
  destinationsOf,
  fits,
  isPending,
  pendingOf,
  recordedIn,
} from '../model/destinations.ts';
import { ProjectSession } from './projectSession.ts';
import type { Guide } from './shown.ts';
import { isAnythingUnsent, tryAllNow } from './writeQueue.ts';
import { readSettled } from './writes.ts';

const id = (n: number): string => `00000000-0000-4000-8000-${String(n).padStart(12, '0')}`;
/** Another one for each test: what a test leaves unsent holds up no other. */
let PROJECT = id(1);
let projects = 0;
const NEAR = id(11);
const WIDE = id(12);
const DIM = id(21);
const LATE = id(22);
const BASE = id(31);
const NIGHT = id(32);
const document: SceneDocument = {
  version: 1,
  nodes: [{ path: 'Lamp', name: 'Lamp', parent: -1, matrix: IDENTITY, light: 0 }],
  meshes: [],
  materials: [],
  textures: [],
  cameras: [],
  lights: [],
};
const handling = {
  locked: false,
  aspectLocked: false,
  frames: [{ first: 1, last: 1, step: 1 }],
  guides: [],
  plate: null,
  plateFit: 'fill',
  plateOpacity: 1,
  notes: '',
};
const camera = (cameraId: string, name: string): Camera =>
  ({ id: cameraId, name, ordinal: 0, settings: cameraForScene(document), handling }) as unknown as Camera;
const change = (target: string, property: string, value: Change['value']): Change => ({ target, property, value });
const brighter = change('light:Lamp', 'light.intensity', 9);
const off = change('light:Lamp', 'light.on', false);
const hide = change('object:Sheet', 'object.shown', false);

const plain = { namedByHand: true, excludedCameraIds: [], notes: '', tag: null };

function project(): Project {
  return {
    id: PROJECT,
    name: 'Tea stall',
    nameTemplate: '{camera}',
    variantTemplate: '{lighting}',
    revision: null,
    offered: null,
    sets: [],
    profiles: [],
    exceptions: [],
    acceptedWarnings: [],
    staysUnmet: false,
    history: { undo: null, redo: null, last: '1' },
    base: [],
    pending: [],
    patches: [
      { cameraId: NEAR, variantId: null, changes: [hide] },
      { cameraId: NEAR, variantId: NIGHT, changes: [off] },
    ],
    cameras: [camera(NEAR, 'Near'), camera(WIDE, 'Wide')],
    options: [
      { id: DIM, facet: 'lighting', name: 'Dim', ordinal: 0, changes: [brighter], notes: '', tag: null },
      { id: LATE, facet: 'visibility', name: 'Late', ordinal: 0, changes: [], notes: '', tag: null },
    ],
    variants: [
      { id: BASE, name: 'Base', ordinal: 0, optionIds: [], ...plain },
      { id: NIGHT, name: 'Night', ordinal: 1, optionIds: [DIM], ...plain },
    ],
  } as unknown as Project;
}

interface Asked {
  readonly method: string;
  readonly path: string;
  readonly body: never;
  answer(status?: number): void;
  /** As a network that fails does: nobody knows whether it arrived. */
  lose(): void;
}
/** The page's cache, and the requests that wait for an answer. */
let client: QueryClient, waiting: Asked[], pendingThere: Map<string, Change[]>, camerasThere: Map<string, Camera>;
const here = (): Project => client.getQueryData<Project>(keys.project(PROJECT))!;
const settle = async (): Promise<void> => {
  for (let i = 0; i < 20; i++) await Promise.resolve();
  await new Promise<void>((done) => {
    const { port1, port2 } = new MessageChannel();
    port1.onmessage = () => {
      port1.close();
      done();
    };
    port2.postMessage(0);
  });
};

/** What the server does with a request that it does not refuse. */
function take(
  method: string,
  path: string,
  body: {
    destination?: string;
    set?: Change[];
    clear?: Pick<Change, 'target' | 'property'>[] | 'all';
    cameraIds?: string[];
    settings?: object;
    handling?: object;
    name?: string;
  },
): unknown {
  if (path.endsWith('/pending')) {
    const before = pendingThere.get(body.destination!) ?? [];
    pendingThere.set(
      body.destination!,
      mergeChanges(body.clear === 'all' ? [] : withoutChanges(before, body.clear ?? []), body.set ?? []),
    );
    return { undo: 'Edit', redo: null, last: '2' };
  }
  if (path.endsWith('/undo')) return { label: 'Edit', project: { ...here(), pending: [] } };
  if (path.endsWith('/order')) return { ...here() };
  const ids = body.cameraIds ?? [path.slice(path.lastIndexOf('/') + 1)];
  for (const cameraId of ids) {
    const c = camerasThere.get(cameraId)!;
    const settings = Object.fromEntries(
      Object.entries({ ...c.settings, ...body.settings }).filter(([, v]) => v !== null),
    );
    camerasThere.set(cameraId, {
      ...c,
      ...(body.name !== undefined && { name: body.name }),
      settings,
      handling: { ...c.handling, ...body.handling },
    } as Camera);
  }
  return method === 'PATCH' && body.cameraIds
    ? { ...here(), cameras: [...camerasThere.values()] }
    : camerasThere.get(ids[0]!);
}
beforeEach(() => {
  PROJECT = id(1000 + ++projects);
  client = new QueryClient();
  client.setQueryData(keys.project(PROJECT), project());
  waiting = [];
  pendingThere = new Map();
  camerasThere = new Map(project().cameras.map((c) => [c.id, c]));
  vi.stubGlobal(
    'fetch',
    (path: string, { method, body }: { method: string; body?: string }) =>
      new Promise((resolve, reject) => {
        const asked = JSON.parse(body ?? '{}') as never;
        waiting.push({
          method,
          path,
          body: asked,
          lose: () => reject(new TypeError('Failed to fetch')),
          answer: (status = 200) =>
            resolve({
              ok: status === 200,
              status,
              json: () =>
                Promise.resolve(
                  status === 200
                    ? take(method, path, asked)
                    : { code: 'INVALID', message: 'The kettle is in the way.', remedy: 'Move it.' },
                ),
            } as Response),
        });
      }),
  );
});
afterEach(() => {
  vi.unstubAllGlobals();
  vi.useRealTimers();
});

describe('pending edits', () => {
  it('are on the page at once, before the server has answered', () => {
    const session = new ProjectSession(client, PROJECT);
    session.edit('base', [brighter]);
    expect(pendingOf(here(), 'base')).toEqual([brighter]);
    expect(isPending(here(), 'base', 'light:Lamp', 'light.intensity')).toBe(true);
    expect(isPending(here(), 'base', 'light:Lamp', 'light.on')).toBe(false);
  });
  it('that come while some are on their way go together, with the last value of each', async () => {
    const session = new ProjectSession(client, PROJECT);
    session.edit('base', [brighter]);
    await settle();
    for (const value of [10, 11, 12]) session.edit('base', [{ ...brighter, value }]);
    session.edit('base', [off]);
    expect(waiting).toHaveLength(1);
    waiting[0]!.answer();
    await settle();
    expect(waiting[1]!.body).toEqual({ destination: 'base', set: [{ ...brighter, value: 12 }, off], clear: [] });
    waiting[1]!.answer();
    await session.settled();
    expect(waiting).toHaveLength(2);
    expect(pendingThere.get('base')).toEqual(pendingOf(here(), 'base'));
  });
  it('of several destinations stay apart', async () => {
    const session = new ProjectSession(client, PROJECT);
    session.edit('base', [brighter]);
    session.edit(`option:${LATE}`, [hide]);
    session.discard('base', 'all');
    for (let i = 0; i < 6; i++) {
      await settle();
      waiting[i]?.answer();
    }
    await session.settled();
    expect(Object.fromEntries([...pendingThere].map(([d, c]) => [d, c.length]))).toEqual({
      base: 0,
      [`option:${LATE}`]: 1,
    });
    expect(here().pending).toEqual([{ destination: `option:${LATE}`, changes: [hide] }]);
  });
  it('that are refused do not hold up those behind them', async () => {
    const session = new ProjectSession(client, PROJECT);
    const asked = vi.spyOn(client, 'invalidateQueries').mockResolvedValue();
    session.edit('base', [brighter]);
    await settle();
    session.edit(`option:${LATE}`, [hide]);
    waiting[0]!.answer(400);
    await settle();
    expect(waiting[1]!.body).toMatchObject({ destination: `option:${LATE}`, set: [hide] });
    waiting[1]!.answer();
    await session.settled();
    expect([...pendingThere.keys()]).toEqual([`option:${LATE}`]);
    expect(asked).toHaveBeenCalledWith({ queryKey: keys.project(PROJECT) }); // what the server has is asked for
  });
  it('are sent while what the server has instead of a refused one is still asked for', async () => {
    const session = new ProjectSession(client, PROJECT);
    vi.spyOn(client, 'invalidateQueries').mockReturnValue(new Promise(() => {}));
    session.edit('base', [brighter]);
    await settle();
    waiting[0]!.answer(400);
    await settle();
    session.edit(`option:${LATE}`, [hide]);
    await settle();
    expect(waiting[1]!.body).toMatchObject({ destination: `option:${LATE}`, set: [hide] });
    waiting[1]!.answer();
    await session.settled();
    expect([...pendingThere.keys()]).toEqual([`option:${LATE}`]);
  });
  it('reach the server whole, whatever is recorded and discarded while it takes its time', async () => {
    const targets = ['light:Lamp', 'light:Lantern'];
    const properties = ['light.intensity', 'light.radius'];
    const step = fc.oneof(
      fc.record({
        do: fc.constant('record' as const),
        to: fc.constantFrom('base', `option:${DIM}`),
        target: fc.constantFrom(...targets),
        property: fc.constantFrom(...properties),
        value: fc.integer({ min: 0, max: 9 }),
      }),
      fc.record({
        do: fc.constant('discard' as const),
        to: fc.constantFrom('base', `option:${DIM}`),
        target: fc.constantFrom(...targets),
        property: fc.constantFrom(...properties),
      }),
      fc.record({ do: fc.constant('discard all' as const), to: fc.constantFrom('base', `option:${DIM}`) }),
      fc.record({ do: fc.constant('answer' as const) }),
    );
    await fc.assert(
      fc.asyncProperty(fc.array(step, { maxLength: 25 }), async (steps) => {
        client.setQueryData(keys.project(PROJECT), project());
        waiting = [];
        pendingThere = new Map();
        const session = new ProjectSession(client, PROJECT);
        let answered = 0;
        for (const s of steps) {
          if (s.do === 'record') session.edit(s.to, [change(s.target, s.property, s.value)]);
          else if (s.do === 'discard') session.discard(s.to, [{ target: s.target, property: s.property }]);
          else if (s.do === 'discard all') session.discard(s.to, 'all');
          else {
            await settle();
            waiting[answered]?.answer();
            if (waiting[answered]) answered++;
          }
        }
        for (let quiet = 0; quiet < 2;) {
          await settle();
          if (waiting[answered]) {
            waiting[answered++]!.answer();
            quiet = 0;
          } else quiet++;
        }
        const sorted = (c: readonly Change[]) =>
          [...c].sort((a, b) => (keyOf(a.target, a.property) < keyOf(b.target, b.property) ? -1 : 1));
        for (const d of ['base', `option:${DIM}`])
          expect(sorted(pendingThere.get(d) ?? [])).toEqual(sorted(pendingOf(here(), d)));
      }),
      { numRuns: 60 },
    );
  });
});

describe('destinations', () => {
  const p = project();
  it('are the base, every option by facet, and the camera, alone and in the variant', () => {
    expect(destinationsOf(p, NEAR, p.variants[1]!).map((d) => d.label)).toEqual([
      'the base',
      'Lighting: Dim',
      'Visibility: Late',
      'this camera only',
      'this camera in this variant only',
    ]);
    expect(destinationsOf(p, '', p.variants[0]!).map((d) => d.label)).toEqual([
      'the base',
      'Lighting: Dim',
      'Visibility: Late',
    ]);
  });
  it('of one facet take changes of no other', () => {
    const [base, dim, late, own] = destinationsOf(p, NEAR, p.variants[0]!);
    expect([base, dim, late, own].map((d) => [fits(brighter, d!), fits(hide, d!)])).toEqual([
      [true, true],
      [true, false],
      [false, true],
      [true, true],
    ]);
  });
  it('are called in words that hold anywhere, also when they are gone', () => {
    expect(
      ['base', `option:${DIM}`, `camera:${WIDE}`, `cell:${NEAR}:${NIGHT}`].map((d) => destinationLabel(p, d)),
    ).toEqual(['the base', 'Lighting: Dim', 'Wide only', 'Near in Night only']);
    expect(
      [`option:${id(99)}`, `camera:${id(99)}`, `cell:${NEAR}:${id(99)}`].map((d) => destinationLabel(p, d)),
    ).toEqual(['an option that is gone', 'a camera that is gone only', 'Near in a variant that is gone only']);
  });
  it('know what is recorded in them', () => {
    expect(
      [
        'base',
        `option:${DIM}`,
        `camera:${NEAR}`,
        `cell:${NEAR}:${NIGHT}`,
        `cell:${NEAR}:${BASE}`,
        `camera:${WIDE}`,
      ].map((d) => recordedIn(p, d)),
    ).toEqual([[], [brighter], [hide], [off], [], []]);
  });
});

describe('cameras', () => {
  const moved = (x: number) => [...IDENTITY.slice(0, 12), x, 0, 0, 1];
  const there = (cameraId: string) => camerasThere.get(cameraId)!.settings as unknown as Record<string, unknown>;
  const answerAll = async () => {
    for (let i = 0; i < waiting.length || i < 6; i++) {
      await settle();
      waiting[i]?.answer();
    }
    await settle();
  };

  it('change together as one request', async () => {
    new ProjectSession(client, PROJECT).changeCameras([NEAR, WIDE], {
      settings: { focalLengthMm: 85 },
      handling: { locked: true },
    });
    expect(here().cameras.map((c) => [c.settings.focalLengthMm, c.handling.locked])).toEqual([
      [85, true],
      [85, true],
    ]);
    await answerAll();
    expect(waiting).toHaveLength(1);
    expect([
      there(NEAR)['focalLengthMm'],
      there(WIDE)['focalLengthMm'],
      camerasThere.get(WIDE)!.handling.locked,
    ]).toEqual([85, 85, true]);
  });
  it('lose a setting that is set to nothing, here and there', async () => {
    const session = new ProjectSession(client, PROJECT);
    session.changeCameras([NEAR], { settings: { shiftY: 0.2 } });
    await answerAll();
    expect(there(NEAR)['shiftY']).toBe(0.2);
    session.changeCameras([NEAR], { settings: { shiftY: undefined } });
    await answerAll();
    expect('shiftY' in here().cameras[0]!.settings).toBe(false);
    expect('shiftY' in there(NEAR)).toBe(false);
  });
  it('that go along with the view are written once, when it rests, where it rested', async () => {
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] });
    const session = new ProjectSession(client, PROJECT);
    const before = here().cameras[0]!.settings.matrix;
    for (let x = 1; x <= 30; x++) {
      session.moveCamera(NEAR, moved(x));
      session.cameraRested();
      vi.advanceTimersByTime(20);
    }
    expect(waiting).toHaveLength(0);
    expect(session.moves.of(NEAR)![12]).toBe(30);
    expect(here().cameras[0]!.settings.matrix).toEqual(before); // nothing but what asks for it is drawn anew
    vi.advanceTimersByTime(400);
    await answerAll();
    expect(waiting.map((w) => w.path)).toEqual([`/api/projects/${PROJECT}/cameras/${NEAR}`]);
    expect(here().cameras[0]!.settings.matrix[12]).toBe(30);
    expect(session.moves.of(NEAR)).toBeUndefined();
    expect((there(NEAR)['matrix'] as number[])[12]).toBe(30);
    expect((there(WIDE)['matrix'] as number[])[12]).toBe(cameraForScene(document).matrix[12]);
  });
  it('keep their move where another of their settings is changed before they rest, and what is set last counts', async () => {
    const session = new ProjectSession(client, PROJECT);
    session.moveCamera(NEAR, moved(3));
    session.changeCameras([NEAR], { settings: { fStop: 4 } });
    expect(here().cameras[0]!.settings).toMatchObject({ matrix: moved(3), fStop: 4 });
    session.moveCamera(NEAR, moved(5));
    session.setCamera(NEAR, { settings: { ...cameraForScene(document), matrix: moved(9) } });
    expect(here().cameras[0]!.settings.matrix).toEqual(moved(9));
    await answerAll();
    expect(there(NEAR)['matrix']).toEqual(moved(9));
  });
  it('are written at once when the place is left', async () => {
    const session = new ProjectSession(client, PROJECT);
    session.moveCamera(WIDE, moved(4));
    session.flushCameras();
    await answerAll();
    expect((there(WIDE)['matrix'] as number[])[12]).toBe(4);
    session.flushCameras();
    await settle();
    expect(waiting).toHaveLength(1); // nothing is written twice
  });
  it('are sent in the order in which they were changed, and a refusal brings back what the server has', async () => {
    const session = new ProjectSession(client, PROJECT);
    const asked = vi.spyOn(client, 'invalidateQueries').mockResolvedValue();
    session.setCamera(NEAR, { name: 'Closer' });
    session.changeCameras([NEAR], { settings: { fStop: 4 } });
    await settle();
    expect(waiting).toHaveLength(1);
    waiting[0]!.answer(400);
    await settle();
    expect(asked).toHaveBeenCalledWith({ queryKey: keys.project(PROJECT) });
    expect(waiting).toHaveLength(2);
    waiting[1]!.answer();
    await settle();
    expect([camerasThere.get(NEAR)!.name, there(NEAR)['fStop']]).toEqual(['Near', 4]);
  });
});

describe('a server that does not answer', () => {
  const answered = async (i: number) => {
    await settle();
    waiting[i]!.answer();
    await settle();
  };

  it('costs no edit: it is said, what is unsent waits, and all of it arrives in its order', async () => {
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] });
    const session = new ProjectSession(client, PROJECT);
    session.edit('base', [brighter]);
    await settle();
    session.edit('base', [off]);
    session.changeCameras([NEAR], { settings: { fStop: 4 } });
    waiting[0]!.lose();
    await settle();
    expect(session.queue.current()).toEqual({ kind: 'unreachable', unsent: 3 });
    expect(isAnythingUnsent()).toBe(true);
    vi.advanceTimersByTime(600);
    await settle();
    waiting[1]!.lose();
    await settle();
    expect(waiting).toHaveLength(2); // the wait has grown
    vi.advanceTimersByTime(1100);
    for (const i of [2, 3, 4]) await answered(i);
    expect(session.queue.current()).toEqual({ kind: 'saved' });
    expect(pendingThere.get('base')).toEqual([brighter, off]);
    expect(waiting.slice(2).map((w) => w.path.split('/').at(-1))).toEqual(['pending', 'pending', 'cameras']);
  });

  it('is tried at once when asked to', async () => {
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] });
    const session = new ProjectSession(client, PROJECT);
    session.edit('base', [brighter]);
    await settle();
    waiting[0]!.lose();
    await settle();
    tryAllNow();
    await answered(1);
    expect(pendingThere.get('base')).toEqual([brighter]);
  });

  it('is not asked twice for what must not be done twice, and the person is told', async () => {
    const session = new ProjectSession(client, PROJECT);
    const undone = session.turn('undo');
    await settle();
    waiting[0]!.lose();
    expect(await undone).toBeUndefined();
    await settle();
    expect(waiting).toHaveLength(1);
    expect(session.queue.current()).toEqual({ kind: 'saved' });
  });
});

describe('a hand that drags a number', () => {
  const at = (v: number): Change => ({ ...brighter, value: v });

  it('shows every step at once and sends one edit, with what came before it and what comes after it in order', async () => {
    const session = new ProjectSession(client, PROJECT);
    session.edit('base', [off]);
    const hand = session.beginGesture();
    for (let v = 50; v <= 80; v++) session.edit('base', [at(v)]);
    expect(here().pending[0]!.changes).toContainEqual(at(80));
    await settle();
    expect(waiting).toHaveLength(1);
    waiting[0]!.answer();
    await settle();
    expect(pendingThere.get('base')).toEqual([off]); // nothing of it is sent while it is held
    hand.end();
    void session.turn('undo');
    await settle();
    waiting[1]!.answer();
    await settle();
    waiting[2]!.answer();
    await session.settled();
    expect(waiting.map((w) => w.path.split('/').at(-1))).toEqual(['pending', 'pending', 'undo']);
    expect(session.queue.current()).toEqual({ kind: 'saved' });
  });

  it('and gives the old value back has changed nothing', async () => {
    const session = new ProjectSession(client, PROJECT);
    const hand = session.beginGesture();
    session.edit('base', [at(70)]);
    session.changeCameras([NEAR], { settings: { fStop: 11 } });
    hand.cancel();
    hand.end();
    expect(here().pending).toEqual([]);
    expect(here().cameras[0]!.settings.fStop).not.toBe(11);
    await session.settled();
    expect(waiting).toHaveLength(0);
    expect(session.queue.current()).toEqual({ kind: 'saved' });
  });

  it('is sent before anything else that is done', async () => {
    const session = new ProjectSession(client, PROJECT);
    session.beginGesture();
    session.edit('base', [at(70)]);
    void session.turn('undo');
    await settle();
    waiting[0]!.answer();
    await settle();
    expect(waiting.map((w) => w.path.split('/').at(-1))).toEqual(['pending', 'undo']);
  });

  it('changes cameras as one request each, the last of each value', async () => {
    const session = new ProjectSession(client, PROJECT);
    const hand = session.beginGesture();
    for (const focalLengthMm of [50, 60, 70]) session.changeCameras([NEAR, WIDE], { settings: { focalLengthMm } });
    session.changeCameras([NEAR, WIDE], { settings: { fStop: 2 } });
    hand.end();
    await settle();
    waiting[0]!.answer();
    await session.settled();
    expect(waiting).toHaveLength(1);
    expect([camerasThere.get(NEAR)!, camerasThere.get(WIDE)!].map((c) => c.settings)).toEqual([
      expect.objectContaining({ focalLengthMm: 70, fStop: 2 }),
      expect.objectContaining({ focalLengthMm: 70, fStop: 2 }),
    ]);
  });
});

describe('undo', () => {
  it('does not overtake an edit that is not sent yet, nor a camera that was just moved', async () => {
    const session = new ProjectSession(client, PROJECT);
    session.edit('base', [brighter]);
    session.moveCamera(NEAR, [...IDENTITY.slice(0, 12), 7, 0, 0, 1]);
    session.edit(`option:${LATE}`, [hide]);
    void session.turn('undo');
    for (let i = 0; i < 4; i++) {
      await settle();
      waiting[i]!.answer();
    }
    await session.settled();
    const last = waiting.map((w) => `${w.method} ${w.path.split('/').at(-1)}`);
    expect(last).toEqual(['POST pending', `PATCH ${NEAR}`, 'POST pending', 'POST undo']);
  });
});

describe('what is on the page and not sent yet', () => {
  it('is not replaced by an older answer: a project is asked for again when all is sent', async () => {
    const session = new ProjectSession(client, PROJECT);
    session.moveCamera(NEAR, [...IDENTITY.slice(0, 12), 7, 0, 0, 1]); // the wheel turns; its rest has not begun
    let read = false;
    void readSettled(PROJECT, () => {
      read = true;
      return Promise.resolve();
    });
    await settle();
    expect(read).toBe(false);
    session.flushCameras();
    await settle();
    waiting[0]!.answer();
    await session.settled();
    await settle();
    expect(read).toBe(true);
  });

  it('goes back to what the server has where an order is refused', async () => {
    const session = new ProjectSession(client, PROJECT);
    const asked = vi.spyOn(client, 'invalidateQueries').mockResolvedValue();
    session.orderCameras([WIDE, NEAR]);
    expect(here().cameras.map((c) => c.name)).toEqual(['Wide', 'Near']);
    await settle();
    waiting[0]!.answer(400);
    await session.settled();
    expect(asked).toHaveBeenCalledWith({ queryKey: keys.project(PROJECT) });
  });
});

describe('an answer that comes while somebody goes on working', () => {
  const farther = [...IDENTITY.slice(0, 12), 7, 0, 0, 1];

  it('takes nothing off the page that was done since it was asked for', async () => {
    const session = new ProjectSession(client, PROJECT);
    session.edit('base', [brighter]);
    const undone = session.turn('undo');
    session.edit('base', [off]);
    session.changeCameras([NEAR], { settings: { fStop: 11 } });
    session.moveCamera(WIDE, farther);
    session.flushCameras();
    await settle();
    waiting[0]!.answer(); // the first edit
    await settle();
    waiting[1]!.answer(); // a project without anything pending
    await undone;
    expect(pendingOf(here(), 'base')).toEqual([off]);
    expect(here().cameras.map((c) => [c.settings.fStop, c.settings.matrix[12]])).toEqual([
      [11, project().cameras[0]!.settings.matrix[12]],
      [project().cameras[1]!.settings.fStop, 7],
    ]);
    for (let i = 2; i < 5; i++) {
      waiting[i]!.answer();
      await settle();
    }
    await session.settled();
    expect(pendingThere.get('base')).toContainEqual(off);
    expect(pendingOf(here(), 'base')).toEqual([off]);
  });

  it('is what a gesture that is cancelled gives back', async () => {
    const session = new ProjectSession(client, PROJECT);
    session.edit('base', [brighter]);
    const undone = session.turn('undo');
    const hand = session.beginGesture();
    session.edit('base', [off]);
    await settle();
    waiting[0]!.answer();
    await settle();
    waiting[1]!.answer();
    await undone;
    expect(pendingOf(here(), 'base')).toEqual([off]);
    hand.cancel();
    expect(pendingOf(here(), 'base')).toEqual([]);
  });

  it('is asked for again where an edit has put it off', async () => {
    const session = new ProjectSession(client, PROJECT);
    const theirs: Project = { ...project(), name: 'Renamed in another window' };
    const observer = new QueryObserver(client, {
      queryKey: keys.project(PROJECT),
      staleTime: Infinity,
      queryFn: () => readSettled(PROJECT, () => Promise.resolve({ ...theirs, pending: here().pending })),
    });
    const stop = observer.subscribe(() => undefined);
    void client.invalidateQueries({ queryKey: keys.project(PROJECT) });
    session.edit('base', [off]);
    await settle();
    waiting[0]!.answer();
    await session.settled();
    await settle();
    stop();
    expect(here().name).toBe('Renamed in another window');
    expect(pendingOf(here(), 'base')).toEqual([off]);
  });
});

describe('guides of several cameras', () => {
  it('are added and taken away, and the others stay as each has them', () => {
    const p = project();
    const guided = (i: number, guides: readonly Guide[]) =>
      ({ ...p.cameras[i]!, handling: { ...p.cameras[i]!.handling, guides: [...guides] } }) as Camera;
    client.setQueryData(keys.project(PROJECT), { ...p, cameras: [guided(0, ['thirds']), guided(1, ['safe'])] });
    const session = new ProjectSession(client, PROJECT);
    session.changeCameras([NEAR, WIDE], { guides: { add: ['centre'], remove: ['thirds'] } });
    expect(here().cameras.map((c) => c.handling.guides)).toEqual([['centre'], ['safe', 'centre']]);
  });
});

describe('a destination of the address', () => {
  const p = project();
  const shown = destinationsOf(p, NEAR, p.variants[0]!);
  it('stays what it is where the camera shown does not have it, or it is gone, and is not the base in silence', () => {
    expect(destinationOf(p, shown, `camera:${NEAR}`)).toMatchObject({ label: 'this camera only', isHere: true });
    expect(destinationOf(p, shown, `camera:${WIDE}`)).toMatchObject({ label: 'Wide only', isHere: false });
    expect(destinationOf(p, shown, `option:${id(99)}`)).toMatchObject({
      label: 'an option that is gone',
      isHere: false,
    });
    expect(destinationOf(p, shown, null)).toMatchObject({ id: 'base', isHere: true });
  });
});
