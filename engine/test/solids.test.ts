// Solids that overlap, as a drink and its glass: light through stacks of them against the closed form of plane layers.
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { MASK, type EngineMaterial, type EngineMesh } from '../host/index.ts';
import {
  IDENTITY,
  constantSky,
  floor,
  frontCamera,
  glow,
  matte,
  mean,
  scene,
  settings,
  shoot,
  translated,
} from './fixtures.ts';

/** Two of its faces are met; the others are far from what is looked at. */
interface Slab {
  readonly from: number;
  readonly to: number;
  readonly ior: number;
  /** Absorption, 1/m. */
  readonly perM: number;
  readonly priority?: number;
  readonly roughness?: number;
}
const HALF_M = 50;
/** A closed box, its faces outwards. */
function box({ from, to }: Slab): EngineMesh {
  const corners = [from, to].flatMap((z) => [
    -HALF_M,
    -HALF_M,
    z,
    HALF_M,
    -HALF_M,
    z,
    HALF_M,
    HALF_M,
    z,
    -HALF_M,
    HALF_M,
    z,
  ]);
  const faces = [
    [0, 3, 2, 1],
    [4, 5, 6, 7],
    [0, 1, 5, 4],
    [1, 2, 6, 5],
    [2, 3, 7, 6],
    [3, 0, 4, 7],
  ] as const;
  return {
    name: 'slab',
    positions: new Float32Array(corners),
    indices: new Uint32Array(faces.flatMap(([a, b, c, d]) => [a, b, c, a, c, d])),
  };
}
const glass = ({ ior, perM, priority, roughness }: Slab): EngineMaterial => ({
  ...matte,
  transmission: 1,
  roughness: roughness ?? 0,
  ior,
  specular: 1,
  solid: true,
  doubleSided: false,
  attenuation: [perM, perM, perM],
  ...(priority !== undefined && { priority }),
});
const stack = (slabs: readonly Slab[]) => ({
  meshes: slabs.map(box),
  materials: slabs.map(glass),
  instances: slabs.map((_, i) => ({ name: `slab ${i}`, mesh: i, material: i, matrix: IDENTITY, mask: MASK.ALL })),
});

/** What is where, along the way: an index of refraction, and absorption. */
interface Layer {
  readonly metres: number;
  readonly ior: number;
  readonly perM: number;
}
const AIR = { ior: 1, perM: 0 };
/** Of slabs of different priorities. */
function layersOf(slabs: readonly Slab[]): Layer[] {
  const ends = slabs.flatMap((s) => [s.from, s.to]).sort((a, b) => a - b);
  return ends.slice(1).map((to, i) => {
    const middle = (ends[i]! + to) / 2;
    const there = slabs.filter((s) => s.from < middle && middle < s.to);
    const [first] = there.sort((a, b) => (b.priority ?? 0) - (a.priority ?? 0));
    return { metres: to - ends[i]!, ...(first ?? AIR) };
  });
}
/** What gets through layers in air at right angles, to and fro between them as often as may be. */
function through(layers: readonly Layer[]): number {
  let reflects = 0;
  let passes = 1;
  let behind = AIR.ior;
  for (const { ior, perM, metres } of [...layers, { ...AIR, metres: 0 }].reverse()) {
    const r = ((ior - behind) / (ior + behind)) ** 2;
    const between = 1 - r * reflects;
    passes = ((1 - r) * passes) / between;
    reflects = r + ((1 - r) ** 2 * reflects) / between;
    const left = Math.exp(-perM * metres);
    passes *= left;
    reflects *= left ** 2;
    behind = ior;
  }
  const r = ((AIR.ior - behind) / (AIR.ior + behind)) ** 2;
  return ((1 - r) * passes) / (1 - r * reflects);
}
/** Of a card behind them, as the camera sees it from the front, or from the other side. */
async function seen(slabs: readonly Slab[], from: 'front' | 'back' = 'front'): Promise<number> {
  const turned = from === 'front' ? slabs : slabs.map((s) => ({ ...s, from: -s.to, to: -s.from }));
  const parts = stack(turned);
  const shown = scene({
    meshes: [...parts.meshes, floor(3)],
    materials: [...parts.materials, { ...glow([1, 1, 1]), doubleSided: true }],
    instances: [
      ...parts.instances,
      {
        name: 'card',
        mesh: slabs.length,
        material: slabs.length,
        matrix: [1, 0, 0, 0, 0, 0, -1, 0, 0, 1, 0, 0, 0, 0, -6, 1],
        mask: MASK.ALL,
      },
    ],
  });
  return mean(await shoot(shown, { camera: frontCamera(6, 0.001), settings: settings(16, 16, 30), samples: 64 }));
}
const [WALL, DRINK] = [
  { from: 0, to: 1, ior: 1.5, perM: 0 },
  { from: -1, to: 0.2, ior: 1.33, perM: 1 },
];

describe('a drink that overlaps its glass', () => {
  it('ends where the glass begins if that is of the higher priority, seen from either side', async () => {
    const there = through([
      { metres: 1, ...DRINK },
      { metres: 1, ...WALL },
    ]);
    for (const side of ['front', 'back'] as const)
      expect(Math.abs((await seen([{ ...WALL, priority: 1 }, DRINK], side)) - there), side).toBeLessThan(0.01);
  });
  it('ends where it ends itself if it is of the higher one', async () => {
    const there = through([
      { ...DRINK, metres: 1.2 },
      { ...WALL, metres: 0.8 },
    ]);
    for (const side of ['front', 'back'] as const)
      expect(Math.abs((await seen([WALL, { ...DRINK, priority: 3 }], side)) - there), side).toBeLessThan(0.01);
  });
  it('is there from where light enters it where neither is', async () => {
    const fromGlass = through([
      { ...DRINK, metres: 1.2 },
      { ...WALL, metres: 0.8 },
    ]);
    const fromDrink = through([
      { ...DRINK, metres: 1 },
      { ...WALL, metres: 1 },
    ]);
    expect(Math.abs((await seen([WALL, DRINK])) - fromGlass)).toBeLessThan(0.01);
    expect(Math.abs((await seen([WALL, DRINK], 'back')) - fromDrink)).toBeLessThan(0.01);
  });
  it('takes no light that it does not absorb, in rough glass either', async () => {
    const [wall, drink] = [
      { ...WALL, priority: 1 },
      { ...DRINK, perM: 0 },
    ];
    const look = { camera: frontCamera(6, 0.5), settings: settings(16, 16, 60), samples: 128 };
    for (const roughness of [0, 0.2, 0.5]) {
      const parts = stack([wall, { ...drink, roughness }]);
      const film = await shoot({ ...scene(parts), environment: constantSky(1) }, look);
      expect(mean(film), `roughness ${roughness}`).toBeGreaterThan(0.97);
      expect(mean(film), `roughness ${roughness}`).toBeLessThan(1.01);
    }
  });
});

describe('solids', () => {
  it('that overlap in any way let through what plane layers do, whatever is in front', async () => {
    const slabs = fc
      .integer({ min: 2, max: 4 })
      .chain((n) =>
        fc.record({
          ends: fc.shuffledSubarray([...Array(2 * n).keys()], { minLength: 2 * n, maxLength: 2 * n }),
          priorities: fc.shuffledSubarray([...Array(n).keys()], { minLength: n, maxLength: n }),
          of: fc.array(fc.record({ ior: fc.integer({ min: 10, max: 22 }), perM: fc.integer({ min: 0, max: 3 }) }), {
            minLength: n,
            maxLength: n,
          }),
        }),
      )
      .map(({ ends, priorities, of }) =>
        of.map(({ ior, perM }, i): Slab => {
          const [a, b] = [ends[2 * i]! * 0.3 - 1, ends[2 * i + 1]! * 0.3 - 1];
          const [from, to] = [Math.min(a, b), Math.max(a, b)];
          return { from, to, ior: ior / 10, perM: perM / 4, priority: priorities[i]! };
        }),
      )
      .filter((all) => all.every((s) => all.filter((o) => o.from <= s.from && s.from < o.to).length <= 3));
    await fc.assert(
      fc.asyncProperty(slabs, async (all) => {
        expect(Math.abs((await seen(all)) - through(layersOf(all)))).toBeLessThan(0.015);
      }),
      { numRuns: 12 },
    );
  });
  it('that are opaque or unlit are seen in one of a higher priority', async () => {
    const [drink, ice] = [
      { from: -1, to: 1, ior: 1.33, perM: 0, priority: 1 },
      { from: -0.5, to: 0.5, ior: 1.31, perM: 0 },
    ];
    const parts = stack([drink, ice]);
    const look = { camera: frontCamera(6, 0.001), settings: settings(16, 16, 30), samples: 64 };
    const within = (m: Partial<EngineMaterial>) =>
      shoot(scene({ ...parts, materials: [parts.materials[0]!, { ...parts.materials[1]!, ...m }] }), look);
    const there = (1 - (0.33 / 2.33) ** 2) * 0.5;
    expect(mean(await within({ transmission: 0, baseColor: [0, 0, 0, 1], emission: [0.5, 0.5, 0.5] }))).toBeGreaterThan(
      there - 0.01,
    );
    expect(mean(await within({ unlit: true, baseColor: [0.5, 0.5, 0.5, 1] }))).toBeGreaterThan(there - 0.01);
    expect(mean(await within({}))).toBe(0);
  });
  it('of the same material that overlap are one', async () => {
    const ice = { from: 0, to: 1, ior: 1.31, perM: 0.5 };
    const parts = stack([ice]);
    const twice = {
      ...parts,
      instances: [...parts.instances, { ...parts.instances[0]!, name: 'more', matrix: translated(0, 0, -0.6) }],
    };
    const alone = through([{ ...ice, metres: 1.6 }]);
    const card = {
      name: 'card',
      mesh: 1,
      material: 1,
      matrix: [1, 0, 0, 0, 0, 0, -1, 0, 0, 1, 0, 0, 0, 0, -6, 1],
      mask: MASK.ALL,
    };
    const film = await shoot(
      scene({
        meshes: [...parts.meshes, floor(3)],
        materials: [...parts.materials, { ...glow([1, 1, 1]), doubleSided: true }],
        instances: [...twice.instances, card],
      }),
      { camera: frontCamera(6, 0.001), settings: settings(16, 16, 20), samples: 64 },
    );
    expect(Math.abs(mean(film) - alone)).toBeLessThan(0.01);
  });
});
