import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { illuminance, luminanceOf } from '../environment/index.ts';
import {
  type Change,
  SceneIndex,
  daylightOf,
  lightOf,
  placeDocument,
  propertyOf,
  faultOfValue,
  resolve,
} from '../looks/index.ts';
import {
  type CameraSettings,
  type Rgb,
  type SceneDocument,
  cameraForScene,
  lookAt,
  worldMatrices,
} from '../scene/index.ts';
import { PLAIN_RIG, RIGS, type RigSettings, type Subject, rigChanges, subjectOfBox, subjectOfCamera } from './index.ts';

const document = {
  version: 1,
  nodes: [
    {
      path: 'Jug',
      name: 'Jug',
      parent: -1,
      matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1],
      parts: [{ mesh: 0, material: 0 }],
    },
    { path: 'Key', name: 'Key', parent: -1, matrix: lookAt([3, 3, 3], [0, 0, 0]), light: 0 },
  ],
  meshes: [{ min: [-1, 0, -1], max: [1, 2, 1] }],
  materials: [{ name: 'Clay' }],
  textures: [],
  lights: [{ type: 'point', color: [1, 1, 1], intensity: 5, radiusM: 0 }],
  cameras: [],
} as unknown as SceneDocument;
const index = new SceneIndex(document);
const stateOf = (changes: readonly Change[]) => resolve(index, [{ id: 'base', name: '', kind: 'base', changes }]);
const jug: Subject = subjectOfBox({ min: [-1, 0, -1], max: [1, 2, 1] });
const camera = (from: Rgb): CameraSettings => ({ ...cameraForScene(document), matrix: lookAt(from, jug.middle) });
const front = camera([0, 1, 9]);

interface Asked {
  readonly settings?: Partial<RigSettings>;
  readonly subject?: Subject;
  readonly camera?: CameraSettings;
  readonly replaces?: boolean;
  readonly exposure?: number;
}
function made(id: string, asked: Asked = {}) {
  const rig = RIGS.find((r) => r.id === id)!;
  const grade = { target: 'grade', property: 'grade.exposure', value: asked.exposure ?? 0 };
  const changes = rigChanges(index, stateOf([grade]), {
    rig,
    subject: asked.subject ?? jug,
    camera: asked.camera ?? front,
    settings: { ...PLAIN_RIG, ...asked.settings },
    replaces: asked.replaces ?? true,
  });
  const state = stateOf([...changes.lighting, ...changes.environment, grade]);
  const placed = placeDocument(document, state);
  const world = worldMatrices(placed.nodes);
  const lights = placed.nodes.flatMap((n, i) => {
    const light = n.light === undefined ? undefined : lightOf(placed, state, i, world[i]!);
    return light ? [{ name: n.name, isAdded: n.added === true, ...light }] : [];
  });
  return { rig, changes, state, lights, own: lights.filter((l) => l.isAdded) };
}
type Lamp = ReturnType<typeof made>['lights'][number];
const named = (lights: readonly Lamp[], name: string) => lights.find((l) => l.name === name)!;
const placeOf = ({ matrix: m }: Lamp): Rgb => [m[12]!, m[13]!, m[14]!];
const apart = (a: Rgb, b: Rgb) => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);
const sky = ({ state }: ReturnType<typeof made>, property: string) =>
  state.get('environment', `environment.${property}`);

/** Lux on paper at a point that faces a panel's middle, summed over its surface (Lambert). */
function luxAt({ light, matrix: m }: Lamp, point: Rgb): number {
  const to = (x: number, y: number): Rgb =>
    [0, 1, 2].map((k) => m[k]! * x + m[4 + k]! * y + m[12 + k]!) as unknown as Rgb;
  const n = 120;
  const middle = placeOf({ matrix: m } as Lamp);
  const far = apart(middle, point);
  const facing = middle.map((x, k) => (x - point[k]!) / far);
  if (light.type === 'ball') return Math.PI * light.intensity * (light.radiusM / far) ** 2;
  const [w, h] = light.type === 'rectangle' ? [light.widthM, light.heightM] : [0, 0];
  const radius = light.type === 'disc' ? light.radiusM : 0;
  let sum = 0;
  for (let i = 0; i < n; i++)
    for (let k = 0; k < n; k++) {
      const [a, b] = [(i + 0.5) / n, (k + 0.5) / n];
      const r = radius * Math.sqrt(a);
      const p = radius
        ? to(r * Math.cos(2 * Math.PI * b), r * Math.sin(2 * Math.PI * b))
        : to((a - 0.5) * w, (b - 0.5) * h);
      const area = (radius ? Math.PI * radius ** 2 : w * h) / n ** 2;
      const d = apart(p, point);
      const at = p.reduce((s, x, c) => s + ((x - point[c]!) / d) * facing[c]!, 0);
      const leaving = p.reduce((s, x, c) => s + ((x - point[c]!) / d) * m[8 + c]!, 0);
      sum += (light.intensity * area * at * leaving) / d ** 2;
    }
  return sum;
}

describe.each(RIGS.map((r) => r.id))('the rig %s', (id) => {
  it('is made of values that looks take', () => {
    const { changes } = made(id, { settings: { turnDeg: 170, strengthStops: 4, warmth: 1, contrastStops: -3 } });
    for (const [facet, list] of Object.entries(changes))
      for (const c of list) {
        expect(propertyOf(c.property)?.facet, c.property).toBe(facet);
        expect(faultOfValue(propertyOf(c.property)!, c.value), `${c.property} ${String(c.value)}`).toBeUndefined();
      }
    expect(stateOf([...changes.lighting, ...changes.environment]).unmatched).toEqual([]);
  });

  it('looks at the subject from outside it, over its ground, and lights it as it says', () => {
    for (const exposure of [0, -2]) {
      const { rig, own } = made(id, { exposure });
      for (const l of rig.lights) {
        const light = own.find((x) => x.name === l.name || x.name.startsWith(`${l.name} `))!;
        const place = placeOf(light);
        expect(apart(place, jug.middle)).toBeGreaterThan(jug.radiusM);
        expect(place[1]).toBeGreaterThan(jug.floorM);
        expect((luxAt(light, jug.middle) / Math.PI) * 2 ** exposure).toBeCloseTo(l.white, 2);
      }
    }
  });

  it('grows with the subject and keeps its nits', () => {
    const large: Subject = { middle: [10, 20, 0], radiusM: jug.radiusM * 7, floorM: 20 - jug.middle[1] * 7 };
    const there = { ...front, matrix: lookAt([10, 20, 90], large.middle) };
    const [small, grown] = [made(id), made(id, { subject: large, camera: there })];
    for (const [i, l] of small.own.entries()) {
      const g = grown.own[i]!;
      expect(g.light.intensity / l.light.intensity).toBeCloseTo(1, 3);
      if (l.light.type === 'sun') continue;
      expect(apart(placeOf(g), large.middle) / apart(placeOf(l), jug.middle)).toBeCloseTo(7, 2);
      if (l.light.type === 'rectangle' && g.light.type === 'rectangle')
        expect(g.light.widthM / l.light.widthM).toBeCloseTo(7, 2);
    }
  });

  it('turns with the camera, and by its own slider', () => {
    const side = camera([9, 1, 0]);
    const [a, b] = [made(id), made(id, { camera: side })];
    const [c, d] = [made(id), made(id, { settings: { turnDeg: -90 } })];
    // a quarter turn from +Z to +X, about the subject
    const quarter = ([x, y, z]: Rgb): Rgb => [z, y, -x];
    for (const [was, now] of [
      [a, b],
      [c, d],
    ] as const) {
      for (const [i, l] of was.own.entries())
        if (l.light.type !== 'sun') {
          const wanted = quarter(placeOf(l));
          placeOf(now.own[i]!).forEach((x, k) => expect(x).toBeCloseTo(wanted[k]!, 2));
        }
      const isDay = sky(was, 'kind') === 'daylight';
      const moved = Number(sky(now, isDay ? 'sunAzimuth' : 'turn')) - Number(sky(was, isDay ? 'sunAzimuth' : 'turn'));
      expect((((isDay ? -moved : moved) % 360) + 360) % 360).toBeCloseTo(90, 1);
    }
  });

  it('law: strength scales all light, contrast all but the keys, warmth changes no strength', () => {
    const stops = fc.double({ min: -3, max: 3, noNaN: true });
    const plain = made(id);
    fc.assert(
      fc.property(stops, stops, fc.double({ min: -1, max: 1, noNaN: true }), (strengthStops, contrastStops, warmth) => {
        const set = made(id, { settings: { strengthStops, contrastStops, warmth } });
        for (const [i, l] of plain.own.entries()) {
          const role = plain.rig.lights.find((x) => l.name.startsWith(x.name))?.role ?? 'key';
          const wanted = 2 ** (strengthStops - (role === 'fill' ? contrastStops : 0));
          expect(set.own[i]!.light.intensity / l.light.intensity).toBeCloseTo(wanted, 2);
        }
        const ratio = Number(sky(set, 'strength')) / Number(sky(plain, 'strength'));
        expect(ratio / 2 ** (strengthStops - contrastStops)).toBeCloseTo(1, 2);
      }),
      { numRuns: 20 },
    );
  });
});

describe('rigs', () => {
  it('have their left at the left of the camera', () => {
    const { lights } = made('softBoxes');
    expect(placeOf(named(lights, 'Key 2'))[0]).toBeLessThan(0);
    expect(placeOf(named(lights, 'Fill'))[0]).toBeGreaterThan(0);
    expect(placeOf(named(lights, 'Back'))[2]).toBeLessThan(0);
  });
  it('switch off what is on otherwise, unless it is asked or belongs to them, and take no name that is taken', () => {
    expect(made('softBoxes').lights.map((l) => l.name)).toEqual(['Back', 'Fill', 'Key 2']);
    expect(made('softBoxes', { replaces: false }).lights.map((l) => l.name)).toContain('Key');
    expect(made('night').lights.map((l) => l.name)).toContain('Key');
  });
  it('with daylight: sun and sky together make white ground white, and the light comes from where the sky is brightest', () => {
    const day = made('sun');
    const { lights, state } = day;
    const d = daylightOf(state);
    const [sun] = lights;
    const strength = Number(sky(day, 'strength'));
    expect((luminanceOf(illuminance(d)) * strength) / Math.PI).toBeCloseTo(1, 3);
    const m = sun!.matrix;
    expect(Math.asin(m[9]!) * (180 / Math.PI)).toBeCloseTo(d.elevationDeg, 1);
    expect(m[8]!).toBeLessThan(0); // from the left of a camera that looks along −Z
    expect(m[10]!).toBeGreaterThan(0); // and from behind it
  });
  it('with a sweep: it opens to the camera under the subject', () => {
    const set = made('sweep', { camera: camera([9, 1, 0]) });
    expect(sky(set, 'backdrop')).toBe(true);
    expect(sky(set, 'backdropTurn')).toBeCloseTo(90, 3);
    const [x, y] = sky(set, 'backdropAt') as Rgb;
    expect(x).toBeLessThan(0);
    expect(y).toBeLessThanOrEqual(0);
    expect(sky(made('rims'), 'backdrop')).toBe(false);
  });
  it('stand about a subject that is looked at from straight above', () => {
    const above = camera([0, 9, 0]);
    for (const { lights } of [made('softBoxes', { camera: above })])
      for (const l of lights) expect(placeOf(l).every(Number.isFinite)).toBe(true);
  });
});

describe('what a rig is built about', () => {
  it('is what the camera focuses on, no larger than the scene', () => {
    const near = { ...front, focusDistanceM: 9, focalLengthMm: 200 };
    const { middle, radiusM, floorM } = subjectOfCamera(document, near);
    middle.forEach((x, k) => expect(x).toBeCloseTo([0, 1, 0][k]!, 6));
    expect(radiusM).toBeLessThan(0.5);
    expect(floorM).toBeCloseTo(1 - radiusM, 6);
    expect(subjectOfCamera(document, { ...near, focalLengthMm: 10 }).radiusM).toBeCloseTo(jug.radiusM, 6);
  });
});
