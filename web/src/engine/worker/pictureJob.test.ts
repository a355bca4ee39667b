// Pictures that share one engine: each is what it would be alone.
import { NEUTRAL_GRADE } from '@variscen/core/image';
import { type Geometry, type SceneDocument, cameraForScene } from '@variscen/core/scene';
import type { Engine } from '@variscen/engine';
import { openNodeEngine } from '@variscen/engine/node';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { Said, Urgency, Wish } from '../messages.ts';
import { PictureJob } from './pictureJob.ts';
import { OpenScene } from './sceneStore.ts';
import { paper, square } from './testSquare.ts';
import { Turns } from './turns.ts';
import { Workshop } from './workshop.ts';

const at = (x: number) => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, 0, 0, 1] as const;
let engine: Engine;
let document: SceneDocument;
beforeEach(async () => {
  engine = await openNodeEngine(1);
  const accelerationBytes = await engine.measureMesh({ name: 'square', ...square });
  const bounds = { min: [-1, -1, 0], max: [1, 1, 0] } as const;
  document = {
    version: 1,
    meshes: [
      {
        name: 'square',
        blob: 'square',
        vertices: 4,
        triangles: 2,
        normals: true,
        uv0: false,
        uv1: false,
        colors: false,
        ...bounds,
        accelerationBytes,
      },
    ],
    textures: [],
    cameras: [],
    materials: [paper],
    lights: [],
    nodes: [
      { path: 'Left', name: 'Left', parent: -1, matrix: at(-40), parts: [{ mesh: 0, material: 0 }] },
      { path: 'Right', name: 'Right', parent: -1, matrix: at(40), parts: [{ mesh: 0, material: 0 }] },
    ],
  };
});
afterEach(() => engine.close());

class SquareScene extends OpenScene {
  override geometry(): Promise<Geometry> {
    return Promise.resolve(square);
  }
}

/** @param afterPass is waited for when the engine has done a pass, before the job hears of it */
function workshop(afterPass: () => Promise<void>): Workshop {
  const open = new SquareScene(document, undefined);
  const render = engine.render.bind(engine);
  engine.render = async (...args) => {
    const done = await render(...args);
    await afterPass();
    return done;
  };
  const shared: Pick<Workshop, 'turns' | 'loadedBy' | 'apart' | 'release' | 'engine' | 'afterFailure'> & {
    scenes: unknown;
  } = {
    turns: new Turns(),
    scenes: { scene: () => Promise.resolve(open), namedFor: () => Promise.resolve(undefined) },
    loadedBy: undefined,
    apart: undefined,
    release: Workshop.prototype.release,
    engine: () => Promise.resolve({ engine, threads: 1 }),
    afterFailure: () => undefined,
  };
  return shared as Workshop;
}

const WIDTH_PX = 48;
const HEIGHT_PX = 32;
function wish(x: number, more: Partial<Wish>): Wish {
  const plain = cameraForScene(document);
  const camera = { ...plain, matrix: [...at(x).slice(0, 14), 6, 1] as unknown as typeof plain.matrix };
  return {
    sceneHash: 'scene',
    changes: [],
    grade: NEUTRAL_GRADE,
    camera: { ...camera, widthPx: WIDTH_PX, heightPx: HEIGHT_PX },
    widthPx: WIDTH_PX,
    heightPx: HEIGHT_PX,
    ...more,
  };
}
async function run(w: Workshop, what: Wish, urgency: Urgency): Promise<Said[]> {
  const heard: Said[] = [];
  await new PictureJob(w, what, urgency, (said) => void heard.push(said), new AbortController().signal).run();
  return heard;
}
const seenOf = (heard: readonly Said[]) => heard.flatMap((s) => (s.kind === 'met' ? s.seen : []));
const lastPicture = (heard: readonly Said[]) => [...(heard.findLast((s) => s.kind === 'picture')?.rgba ?? [])];

/** A job for one camera; after its pass of that number somebody waits for a picture of the other. */
async function interrupted(what: Wish, urgency: Urgency, pass: number): Promise<{ own: Said[]; other: Said[] }> {
  let passes = 0;
  let other: Promise<Said[]> | undefined;
  const w = workshop(async () => {
    if (++passes !== pass) return;
    const waiting = new Promise<void>((resolve) => {
      const wait = w.turns.wait.bind(w.turns);
      w.turns.wait = (...claim) => {
        w.turns.wait = wait;
        const mine = wait(...claim);
        resolve();
        return mine;
      };
    });
    other = run(w, wish(40, { samples: 1 }), 'live');
    await waiting;
  });
  const own = await run(w, what, urgency);
  return { own, other: await other! };
}

const SAMPLES = 4;
describe('a picture job beside a more urgent one', () => {
  it.each([1, 2, 3, SAMPLES])(
    'says what its own camera sees and does not need, interrupted after pass %i',
    async (pass) => {
      const card = { ...paper, name: 'card', emissionStrength: 0 };
      document = {
        ...document,
        materials: [paper, card],
        // an area light is an object of the engine that is none of the scene's
        lights: [{ type: 'disc', radiusM: 0.1, color: [1, 1, 1], intensity: 1 }],
        nodes: [
          ...document.nodes,
          { path: 'Lamp', name: 'Lamp', parent: -1, matrix: at(-80), parts: [], light: 0 },
          { path: 'Card', name: 'Card', parent: -1, matrix: at(45), parts: [{ mesh: 0, material: 1 }] },
        ],
      };
      const { own, other } = await interrupted(wish(-40, { samples: SAMPLES, evidence: true }), 'seen', pass);
      expect(seenOf(own)).toEqual(['Left']);
      // the others lie in the same plane, where no ray that leaves the first can meet them; one of them glows
      const lightPaths = WIDTH_PX * HEIGHT_PX * SAMPLES;
      expect(own.at(-1)).toEqual({ kind: 'met', seen: ['Left'], unmet: ['Card'], lightPaths });
      expect(lastPicture(other).length).toBe(WIDTH_PX * HEIGHT_PX * 4);
    },
  );

  it.each([1, 2, 3, SAMPLES])('is the same picture as alone, interrupted after pass %i', async (pass) => {
    const what = wish(-40, { samples: SAMPLES });
    const { own } = await interrupted(what, 'small', pass);
    const alone = await run(
      workshop(() => Promise.resolve()),
      what,
      'small',
    );
    expect(lastPicture(own)).toEqual(lastPicture(alone));
    expect(new Set(lastPicture(alone)).size).toBeGreaterThan(2);
  });
});

describe('a live picture that is shown in other lights', () => {
  const DIM = [{ target: 'material:Paper', property: 'material.emissionStrength', value: 0.1 }];
  const brightness = (heard: readonly Said[]) => {
    const shown = lastPicture(heard);
    return shown.reduce((sum, x) => sum + x, 0) / shown.length;
  };
  it('rests until its own lights are wanted again, and lets others have the engine meanwhile', async () => {
    const heard: Said[] = [];
    let passes = 0;
    let inOwnLight = 0;
    const w: Workshop = workshop(() => {
      passes++;
      if (inOwnLight === 0 && w.apart !== undefined) {
        inOwnLight = brightness(heard);
        job.relight(DIM);
      }
      return Promise.resolve();
    });
    const { signal } = new AbortController();
    const job: PictureJob = new PictureJob(w, wish(-40, {}), 'live', (said) => void heard.push(said), signal);
    const done = job.run();
    await expect.poll(() => inOwnLight).toBeGreaterThan(0);
    await new Promise((later) => setTimeout(later, 200));
    const [inOther, seen, passed] = [brightness(heard), heard.length, passes];
    expect(inOther).toBeLessThan(inOwnLight - 8); // its sky stays

    const other = await run(w, wish(40, { samples: 1 }), 'live');
    expect(lastPicture(other).length).toBe(WIDTH_PX * HEIGHT_PX * 4);
    expect(passes).toBe(passed + 1); // the other's
    expect(heard).toHaveLength(seen);

    await job.regrade(NEUTRAL_GRADE);
    await done;
    expect(heard.at(-1)).toMatchObject({ kind: 'picture', finished: true });
    expect(Math.abs(brightness(heard) - inOwnLight)).toBeLessThan(3);
  });
});
