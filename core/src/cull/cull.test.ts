// What is left out by rules, by evidence and by hand, and in which words that is told.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { type CameraSettings, IDENTITY, type SceneDocument, type SceneMesh, worldMatrices } from '../scene/index.ts';
import {
  type CullEvidence,
  FrameCull,
  type LetGoCandidate,
  type ObjectEvidence,
  leftOutBy,
  letGo,
  meshBytes,
  mergeEvidence,
  neededLevels,
  textureBytesLookedUp,
  NO_PIECES,
  namedBy,
  objectBytes,
  packCullPlan,
  sharpened,
  percent,
  planFor,
  unpackCullPlan,
  verdictWords,
} from './index.ts';

const camera: CameraSettings = {
  matrix: IDENTITY,
  projection: 'perspective',
  widthPx: 1600,
  heightPx: 900,
  sensorWidthMm: 36,
  focalLengthMm: 35,
  orthoHalfHeightM: 1,
  nearM: 1,
  farM: 50,
  focusDistanceM: 3,
  fStop: null,
  cullMarginPct: null,
};
const box: SceneMesh = {
  name: 'box',
  blob: '',
  vertices: 8,
  triangles: 12,
  normals: true,
  uv0: false,
  uv1: false,
  colors: false,
  min: [-0.5, -0.5, -0.5],
  max: [0.5, 0.5, 0.5],
  accelerationBytes: 1000,
};
const at = (x: number, y: number, z: number) => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, y, z, 1];
const sceneOf = (places: Readonly<Record<string, readonly number[]>>): SceneDocument => ({
  version: 1,
  meshes: [box],
  materials: [],
  textures: [],
  lights: [],
  cameras: [],
  nodes: Object.entries(places).map(([path, matrix]) => ({
    path,
    name: path,
    parent: -1,
    matrix: [...matrix],
    parts: [{ mesh: 0, material: 0 }],
  })),
});
function reasonsOf(
  d: SceneDocument,
  more: Partial<CameraSettings>,
  named?: Parameters<FrameCull['verdicts']>[1],
  emits = (_: number) => false,
): Record<string, string> {
  const cull = new FrameCull({ document: d, world: worldMatrices(d.nodes), shown: () => true, emits });
  return Object.fromEntries(cull.verdicts({ ...camera, ...more }, named).map((v) => [d.nodes[v.node]!.path, v.reason]));
}

describe('rules', () => {
  const d = sceneOf({
    here: at(0, 0, -5),
    'at the lens': at(0, 0, -0.2),
    'far off': at(0, 0, -60),
    'on the far plane': at(0, 0, -50),
    aside: at(30, 0, -5),
  });

  it('leave out what lies wholly in front of the near plane or beyond the far plane', () => {
    expect(reasonsOf(d, { cull: { outsidePlanes: true } })).toEqual({
      here: 'in-frame',
      'at the lens': 'outside-planes',
      'far off': 'outside-planes',
      'on the far plane': 'in-frame',
      aside: 'in-frame',
    });
  });

  it('leave out what is wholly farther than a distance', () => {
    expect(reasonsOf(d, { cull: { fartherThanM: 20 } })).toMatchObject({
      here: 'in-frame',
      aside: 'farther',
      'far off': 'farther',
    });
    expect(reasonsOf(d, { cull: { fartherThanM: 49.9 } })['on the far plane']).toBe('in-frame');
  });

  it('leave out what is smaller than so many pixels, however it is turned, and keep what the camera stands in', () => {
    // a cube of 1 m, 1.73 m across: at 60 m about 26 pixels of a frame that is 0.58 m high a metre away
    const sizes = (smallerThanPx: number) => reasonsOf(d, { cull: { smallerThanPx } });
    expect(sizes(40)).toMatchObject({ 'far off': 'in-frame', here: 'in-frame' });
    expect(sizes(50)).toMatchObject({ 'far off': 'smaller', here: 'in-frame', 'at the lens': 'in-frame' });
  });

  it('count after light, pins and names; the first that says so is told', () => {
    const named = namedBy(
      {
        barShare: 0.01,
        keep: ['aside'],
        leaveOut: ['here'],
        byEvidence: ['far off', 'aside'],
        nits: {},
        from: [],
        simplifies: false,
        standIns: {},
        pieces: NO_PIECES,
      },
      undefined,
    );
    const cull = { fartherThanM: 10, leaveOut: 'a'.repeat(64) };
    expect(reasonsOf(d, { cull, cullMarginPct: 0 }, named, (n) => n === 3)).toEqual({
      here: 'by-hand',
      'at the lens': 'in-frame',
      'far off': 'evidence',
      'on the far plane': 'gives-light',
      aside: 'pinned',
    });
  });

  it('never leave out what may be in the frame, but by distance, size or name', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.double({ min: -40, max: 40, noNaN: true }), fc.double({ min: -80, max: 5, noNaN: true }))),
        (places) => {
          const many = sceneOf(Object.fromEntries(places.map(([x, z], i) => [`${i}`, at(x, 0, z)])));
          const byFrame = reasonsOf(many, { cullMarginPct: 0 });
          const byPlanes = reasonsOf(many, { cull: { outsidePlanes: true } });
          for (const [i, [x, z]] of places.entries()) {
            const inFrame = z < -1 && Math.abs(x) < (-z * 18) / 35;
            if (inFrame) expect(byFrame[i]).toBe('in-frame');
            if (z < -1 && z > -50) expect(byPlanes[i]).toBe('in-frame');
          }
        },
      ),
    );
  });
});

const candidates = fc
  .array(fc.tuple(fc.double({ min: 0, max: 0.2, noNaN: true }), fc.integer({ min: 0, max: 1e7 }), fc.boolean()))
  .map((all) =>
    all.map(([costShare, bytes, isUnmet], i): LetGoCandidate => ({
      path: `o${i}`,
      costShare: isUnmet ? 0 : costShare,
      bytes,
    })),
  );

describe('letting go', () => {
  it('costs no more than the bar, goes from what gives least on, and a higher bar lets go of all that a lower does', () => {
    fc.assert(
      fc.property(
        candidates,
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (all, a, b) => {
          const [low, high] = [Math.min(a, b), Math.max(a, b)];
          const gone = letGo(all, low).objects;
          const cost = (paths: readonly string[]) =>
            paths.reduce((n, path) => n + all.find((c) => c.path === path)!.costShare, 0);
          expect(cost(gone)).toBeLessThanOrEqual(low + 1e-12);
          expect(letGo(all, high).objects.slice(0, gone.length)).toEqual(gone);
          for (const c of all) if (c.costShare === 0) expect(gone).toContain(c.path);
          const dearest = Math.max(0, ...gone.map((path) => all.find((c) => c.path === path)!.costShare));
          for (const c of all) if (!gone.includes(c.path)) expect(c.costShare).toBeGreaterThanOrEqual(dearest);
          expect(letGo([...all].reverse(), low).objects).toEqual(gone);
        },
      ),
    );
  });
});

const times = { seen: 0, reflected: 0, refracted: 0, bounced: 0, shadowed: 0, lit: 0 };
const sight = { seen: 0, reflected: 0, refracted: 0, bounced: 0 };
const object = (path: string, more: Partial<ObjectEvidence> = {}): ObjectEvidence => ({
  path,
  times: { ...times, bounced: 3 },
  sight,
  brought: 0,
  shadowed: 0,
  lit: 0,
  nits: 2,
  detailM: null,
  ...more,
});
const evidence = (objects: readonly ObjectEvidence[], unmet: readonly string[] = []): CullEvidence => ({
  widthPx: 320,
  heightPx: 180,
  samples: 64,
  lightPaths: 3_686_400,
  rays: 19_000_000,
  seconds: 9,
  meanNits: 5,
  objects,
  unmet,
  entering: [],
  textures: [],
});

describe('textures', () => {
  it('of which only coarse levels are looked up take little; of those that nobody knows all counts', () => {
    const texture = (blob: string, width: number, height: number, bits?: 16) => ({
      ...{ name: blob, blob, mediaType: 'image/png', width, height },
      ...(bits && { bits }),
    });
    const e = { ...evidence([]), textures: [{ image: 'wood', finest: 1 }] };
    const of = (...textures: ReturnType<typeof texture>[]) =>
      textureBytesLookedUp({ textures }, e, { widthPx: 320, heightPx: 180 });
    expect(of(texture('wood', 4, 4))).toBe((4 + 1) * 4);
    expect(of(texture('wood', 8, 2, 16))).toBe((4 + 2 + 1) * 8);
    expect(of(texture('clay', 4, 4))).toBe((16 + 4 + 1) * 4);
    expect(of(texture('wood', 4, 4), texture('clay', 2, 2))).toBe(20 + 20);
  });
  const looked = (textures: CullEvidence['textures']) => ({ ...evidence([]), textures });
  it('are as fine as the finest look at them, in whichever variant', () => {
    const dusk = looked([
      { image: 'wood', finest: 3 },
      { image: 'clay', finest: 0 },
    ]);
    const dawn = looked([
      { image: 'wood', finest: 2 },
      { image: 'clay', finest: 5 },
    ]);
    expect(mergeEvidence([dusk, dawn]).textures).toEqual([
      { image: 'wood', finest: 2 },
      { image: 'clay', finest: 0 },
    ]);
  });
  it('are needed so much finer as the picture is larger', () => {
    const e = looked([
      { image: 'wood', finest: 4 },
      { image: 'clay', finest: 1 },
    ]);
    const at = (widthPx: number, heightPx: number) => [...neededLevels(e, { widthPx, heightPx }).values()];
    expect(at(320, 180)).toEqual([4, 1]);
    expect(at(160, 90)).toEqual([4, 1]); // as it was measured at least
    expect(at(640, 360)).toEqual([3, 0]);
    expect(at(650, 360)).toEqual([2, 0]); // rounded to the finer
    expect(at(320, 720)).toEqual([2, 0]);
  });
});

describe('a plan', () => {
  const d = sceneOf({
    lamp: at(0, 0, -1),
    bowl: at(0, 0, -2),
    roof: at(0, 9, 0),
    cellar: at(0, -9, 0),
    step: at(1, 0, 0),
  });
  const known = evidence(
    [
      object('lamp', { lit: 0.5, times: { ...times, lit: 9 } }),
      object('bowl', { brought: 0.3 }),
      object('roof', { shadowed: 0.004, nits: 9 }),
      object('step', { brought: 0.002 }),
    ],
    ['cellar'],
  );
  const asked = { barShare: 0.005, keep: [], leaveOut: [], simplifies: false };

  it('names what was never met and what gives least, and nothing that gives light', () => {
    const plan = planFor(asked, known, d, ['Dusk']);
    expect(plan.byEvidence).toEqual(['cellar', 'step']);
    // no darker than the picture's mean
    expect(plan.nits).toEqual({ cellar: 5, step: 5 });
    expect(planFor({ ...asked, barShare: 0.01 }, known, d, []).nits).toMatchObject({ roof: 9 });
    expect(planFor({ ...asked, barShare: 1 }, known, d, []).byEvidence).not.toContain('lamp');
    expect(planFor({ ...asked, barShare: 0 }, known, d, []).byEvidence).toEqual(['cellar']);
    expect(planFor({ ...asked, barShare: null }, known, d, []).byEvidence).toEqual([]);
    expect(planFor(asked, null, d, []).byEvidence).toEqual([]);
  });

  it('keeps what only rays of a picture in its own size came near where nothing may go but what no ray met', () => {
    const late = sharpened(known, (path) => path === 'cellar' || path === 'step');
    expect(late.unmet).toEqual([]);
    expect(late.objects.filter((o) => o.path === 'step')).toHaveLength(1);
    expect(planFor({ ...asked, barShare: 0 }, late, d, []).byEvidence).toEqual([]);
    expect(planFor({ ...asked, barShare: 1 / known.lightPaths }, late, d, []).byEvidence).toEqual(['cellar']);
    const cellar = late.objects.find((o) => o.path === 'cellar');
    expect(verdictWords({ keep: true, reason: 'in-frame' }, cellar, late)).toBe(
      'kept: only rays of a picture in its own size came near',
    );
    expect(sharpened(known, () => false)).toBe(known);
  });

  it('does not name what comes into the frame between the frames that were measured', () => {
    const between = { ...known, entering: ['cellar', 'step'] };
    expect(planFor({ ...asked, barShare: 0.01 }, between, d, []).byEvidence).toEqual(['roof']);
    expect(mergeEvidence([known, between]).entering).toEqual(['cellar', 'step']);
    // a person may still
    expect(planFor({ ...asked, leaveOut: ['cellar'] }, between, d, []).leaveOut).toEqual(['cellar']);
  });

  it('leaves what people have decided to them: pins before all', () => {
    const plan = planFor(
      { barShare: 0.005, keep: ['cellar', 'bowl'], leaveOut: ['roof', 'bowl'], simplifies: false },
      known,
      d,
      [],
    );
    expect(plan.byEvidence).toEqual(['step']);
    expect(plan.leaveOut).toEqual(['roof']);
    expect(leftOutBy(plan)).toEqual(['roof', 'step']);
    expect(unpackCullPlan(packCullPlan(plan))).toEqual(plan);
  });

  it('made from several looks holds to the most that any of them says', () => {
    const night = evidence([object('cellar', { brought: 0.2 }), object('step', { brought: 0.0001 })], ['roof']);
    const both = mergeEvidence([known, night]);
    expect(both.unmet).toEqual([]);
    expect(both.lightPaths).toBe(2 * known.lightPaths);
    expect(both.objects.find((o) => o.path === 'step')!.brought).toBe(0.002);
    expect(planFor(asked, both, d, []).byEvidence).toEqual(['step']);
  });

  it('shares the bytes of a mesh among the objects that show it', () => {
    expect(meshBytes(box)).toBe(1000 + 12 * 12 + 8 * 12);
    const bytes = objectBytes(d);
    expect([...bytes.values()].reduce((a, b) => a + b, 0)).toBeCloseTo(meshBytes(box), 6);
  });
});

describe('a verdict in words', () => {
  const kept = { keep: true, reason: 'not-culled' } as const;
  const words = (v: Parameters<typeof verdictWords>[0], o?: ObjectEvidence) => verdictWords(v, o, evidence([]));
  it('says what an object is needed for, with a figure', () => {
    expect(words(kept, object('a', { sight: { ...sight, seen: 0.0321 } }))).toBe('kept: 3.2 % of the frame');
    expect(words(kept, object('a', { sight: { ...sight, reflected: 0.004 }, shadowed: 0.0123 }))).toBe(
      'kept: in reflections, 0.4 % of what is seen; its shadow, 1.2 % of the light',
    );
    expect(words(kept, object('a', { sight: { ...sight, reflected: 0.004 }, mirror: 'Brass tray' }))).toBe(
      'kept: in reflections on “Brass tray”, 0.4 % of what is seen',
    );
    expect(words(kept, object('a', { sight: { ...sight, refracted: 0.2 } }))).toBe(
      'kept: through glass, 20 % of what is seen',
    );
    expect(words(kept, object('a', { sight: { ...sight, refracted: 0.2 }, glass: 'Jar' }))).toBe(
      'kept: through “Jar”, 20 % of what is seen',
    );
    expect(words(kept, object('a', { sight: { ...sight, bounced: 0.1 }, brought: 0.0002 }))).toBe(
      'kept: bounced light only, 0.02 %',
    );
    expect(words({ keep: true, reason: 'pinned' }, object('a', { shadowed: 0.021 }))).toBe(
      'pinned: its shadow, 2.1 % of the light',
    );
    expect(words({ keep: true, reason: 'gives-light' }, object('a', { lit: 0.62 }))).toBe(
      'kept: gives light, 62 % of the picture is lit by it',
    );
  });
  it('says why something is left out, and what was measured of it', () => {
    expect(words({ keep: false, reason: 'evidence' })).toBe('left out: no ray of 19 million came near');
    expect(words({ keep: false, reason: 'by-hand' }, object('a', { sight: { ...sight, seen: 0.2 } }))).toBe(
      'left out by hand; 20 % of the frame',
    );
    expect(verdictWords({ keep: false, reason: 'farther' }, undefined, null)).toBe('left out: farther than the limit');
    expect(verdictWords(kept, undefined, null)).toBe('kept');
  });
  it('rounds to what a figure says', () => {
    expect([0, 0.000001, 0.0000213, 0.05, 1].map(percent)).toEqual([
      '0 %',
      'under 0.001 %',
      '0.0021 %',
      '5 %',
      '100 %',
    ]);
  });
});
