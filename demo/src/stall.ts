// A tea stall in a lantern-lit lane on the evening of a harvest fair. Metres; the stall stands at the origin and faces +Z, the lane runs towards +Z.
import type { Mesh, Node } from '@gltf-transform/core';
import { Builder, type V3, randomizer } from './builder.ts';
import { box, cloth, gable, lathe, leaf, merge, moved, panel, pebble, pennant, roofTile, tube } from './shapes.ts';

export type Weight = 'light' | 'full';
const LANTERN: V3 = [1, 0.62, 0.28];

export async function makeTeaStall(weight: Weight): Promise<Uint8Array> {
  const full = weight === 'full';
  const b = new Builder(full ? 512 : 64);
  const q = (heavy: number, light: number) => (full ? heavy : light);
  materials(b);
  const root = b.node(null, 'Harvest fair');
  ground(b, root, q);
  houses(b, root, q);
  stall(b, root, q);
  ware(b, root, q);
  lanterns(b, root, q);
  dressing(b, root, q);
  tree(b, root, q);
  lights(b, root);
  cameras(b, root);
  return b.write();
}
type Quality = (heavy: number, light: number) => number;

function materials(b: Builder): void {
  b.material('Copper', { color: [0.93, 0.5, 0.3], metallic: 1, roughness: 0.24 });
  b.material('Celadon', { color: [0.17, 0.42, 0.3], roughness: 0.16 });
  b.material('Indigo enamel', { color: [0.045, 0.075, 0.24], roughness: 0.12 });
  b.material('Brass', { color: [0.87, 0.66, 0.3], metallic: 1, roughness: 0.3 });
  b.material('Cast iron', { color: [0.035, 0.036, 0.04], metallic: 0.6, roughness: 0.5 });
  b.material('Cream glaze', { color: [0.66, 0.58, 0.45], roughness: 0.22 });
  b.material('Tea', { color: [0.16, 0.055, 0.015], roughness: 0.08 });
  b.material('Tea leaves', { color: [0.06, 0.07, 0.03], roughness: 0.9 });
  b.material('Jar glass', { color: [0.97, 0.99, 0.98], roughness: 0.02, glass: true });
  b.material('Mirror', { color: [0.93, 0.94, 0.94], metallic: 1, roughness: 0 });
  b.material('Old wood', { color: [1, 1, 1], roughness: 0.62, paint: 'wood' });
  b.material('Dark wood', { color: [0.32, 0.25, 0.2], roughness: 0.7, paint: 'wood' });
  b.material('Plaster', { color: [1, 1, 1], roughness: 0.95, paint: 'plaster' });
  b.material('Warm plaster', { color: [0.95, 0.68, 0.48], roughness: 0.95, paint: 'plaster' });
  b.material('Roof clay', { color: [0.34, 0.13, 0.075], roughness: 0.8 });
  b.material('Cobble stone', { color: [0.75, 0.76, 0.8], roughness: 0.42, paint: 'stone' });
  b.material('Wet ground', { color: [0.055, 0.053, 0.052], roughness: 1, roughnessPaint: 'puddles' });
  b.material('Awning cloth', { color: [1, 1, 1], roughness: 0.9, paint: 'stripes', twoSided: true });
  b.material('Bunting red', { color: [0.55, 0.08, 0.06], roughness: 0.9, twoSided: true });
  b.material('Bunting straw', { color: [0.75, 0.58, 0.24], roughness: 0.9, twoSided: true });
  b.material('Bunting teal', { color: [0.03, 0.2, 0.22], roughness: 0.9, twoSided: true });
  b.material('Sackcloth', { color: [1, 1, 1], roughness: 1, paint: 'weave' });
  b.material('Lantern paper', {
    color: [0.7, 0.5, 0.3],
    roughness: 0.9,
    emission: LANTERN,
    strength: 4.2,
    emissionPaint: 'paper',
  });
  b.material('Lit window', { color: [0.3, 0.2, 0.1], roughness: 0.4, emission: [1, 0.66, 0.3], strength: 0.8 });
  b.material('Dark window', { color: [0.012, 0.016, 0.022], roughness: 0.06 });
  b.material('Leaf', { color: [0.24, 0.21, 0.05], roughness: 0.55, twoSided: true });
  b.material('Autumn leaf', { color: [0.5, 0.16, 0.03], roughness: 0.55, twoSided: true });
  b.material('Bark', { color: [0.075, 0.055, 0.042], roughness: 0.95 });
  b.material('Rope', { color: [0.36, 0.29, 0.2], roughness: 1 });
}

function ground(b: Builder, root: Node, q: Quality): void {
  const g = b.node(root, 'Ground');
  const earth = box(40, 0.2, 44, 6);
  b.node(g, 'Wet ground', { at: [0, -0.2, 6] }, b.mesh('Wet ground', [earth, 'Wet ground']));
  const cobbles = b.node(root, 'Cobbles');
  const r = randomizer(11);
  const step = q(0.165, 0.45);
  const half = step * 0.53;
  const kinds = [0, 1, 2].map((k) =>
    b.mesh(`Cobble ${k + 1}`, [
      pebble(half * (0.98 + 0.03 * k), half * 0.5, half * (1.02 - 0.04 * k), 0.62, q(16, 6), q(6, 2), true),
      'Cobble stone',
    ]),
  );
  let n = 0;
  for (let z = -1.2, row = 0; z < 15; z += step, row++)
    for (let x = -3.45 + (row % 2) * step * 0.5; x < 3.5; x += step) {
      if (Math.abs(x) < 1.35 && z < 0.5) continue;
      b.node(
        cobbles,
        `Cobble ${++n}`,
        {
          at: [x + (r() - 0.5) * step * 0.12, -half * 0.18 + (r() - 0.5) * half * 0.12, z + (r() - 0.5) * step * 0.12],
          turn: (r() - 0.5) * 16,
          scale: 0.94 + r() * 0.1,
        },
        kinds[Math.floor(r() * 3)]!,
      );
    }
}

function houses(b: Builder, root: Node, q: Quality): void {
  const lane = b.node(root, 'Lane');
  const r = randomizer(23);
  const tile = b.mesh('Roof tile', [roofTile(q(0.27, 0.62), q(0.36, 0.8), q(12, 3)), 'Roof clay']);
  const shapes = {
    litWindow: b.mesh('Lit window', [panel(0.62, 0.9), 'Lit window']),
    darkWindow: b.mesh('Dark window', [panel(0.62, 0.9), 'Dark window']),
    frame: b.mesh('Window frame', [
      merge([
        moved(box(0.76, 0.08, 0.12), 0, -0.08, 0),
        moved(box(0.76, 0.08, 0.12), 0, 0.9, 0),
        moved(box(0.07, 0.9, 0.12), -0.345, 0, 0),
        moved(box(0.07, 0.9, 0.12), 0.345, 0, 0),
        moved(box(0.03, 0.9, 0.06), 0, 0, 0),
      ]),
      'Dark wood',
    ]),
    door: b.mesh('House door', [box(0.95, 2, 0.1), 'Old wood']),
    beam: b.mesh('Facade beam', [box(3.7, 0.16, 0.12), 'Dark wood']),
  };
  const spots: { name: string; at: V3; turn: number }[] = [];
  for (let i = 0; i < q(5, 3); i++) {
    spots.push({ name: `Left house ${i + 1}`, at: [-5.4, 0, -1.2 + i * 3.75], turn: 90 });
    spots.push({ name: `Right house ${i + 1}`, at: [5.4, 0, -1.2 + i * 3.75], turn: -90 });
  }
  spots.push(
    { name: 'House behind the stall', at: [-1.9, 0, -4.2], turn: 0 },
    { name: 'Second house behind the stall', at: [1.9, 0, -4.4], turn: 0 },
    { name: 'House at the lane end', at: [-1.9, 0, 18.6], turn: 180 },
    { name: 'Second house at the lane end', at: [1.9, 0, 18.8], turn: 180 },
  );
  spots.forEach((s, i) => {
    const h = 3.5 + r() * 1.1;
    const w = 3.72;
    const d = 3.2;
    const house = b.node(lane, s.name, { at: s.at, turn: s.turn });
    const wall = i % 3 === 1 ? 'Warm plaster' : 'Plaster';
    b.node(house, 'Walls', {}, b.mesh(`${s.name} walls`, [box(w, h, d, 2.2), wall]));
    const rise = 1.25;
    const roof = b.node(house, 'Roof', { at: [0, h, 0] });
    b.node(roof, 'Gable', { turn: 90 }, b.mesh(`${s.name} gable`, [gable(d + 0.5, rise, w + 0.08), 'Dark wood']));
    const slope = Math.hypot(d / 2 + 0.25, rise);
    const angle = (Math.atan2(rise, d / 2 + 0.25) * 180) / Math.PI;
    const sx = q(0.235, 0.6);
    const sz = q(0.3, 0.66);
    const tiles = b.node(roof, 'Tiles');
    for (const side of q(2, 1) === 2 ? [1, -1] : [1])
      for (let row = 0; row * sz < slope; row++)
        for (let x = -w / 2 + sx / 2; x < w / 2; x += sx) {
          const along = row * sz + sz / 2;
          const y = rise - (along / slope) * rise + 0.03;
          const z = side * (along / slope) * (d / 2 + 0.25);
          b.node(
            tiles,
            `Tile ${side > 0 ? 'front' : 'back'} ${row + 1}-${Math.round((x + w / 2) / sx + 0.5)}`,
            { at: [x, y, z], turn: side > 0 ? 0 : 180, tilt: angle - 4 + r() * 2 },
            tile,
          );
        }
    const front = d / 2 + 0.01;
    b.node(house, 'Beam', { at: [0, 2.35, front] }, shapes.beam);
    b.node(house, 'Door', { at: [1.05, 0, front] }, shapes.door);
    for (const [k, x, y] of [
      [1, -1.1, 0.95],
      [2, -1.1, 2.62],
      [3, 0, 2.62],
      [4, 1.1, 2.62],
      [5, -0.1, 0.95],
    ] as const) {
      if (y + 0.95 > h) continue;
      b.node(house, `Window ${k}`, { at: [x, y, front + 0.005] }, r() < 0.36 ? shapes.litWindow : shapes.darkWindow);
      b.node(house, `Window frame ${k}`, { at: [x, y, front] }, shapes.frame);
    }
  });
}

function stall(b: Builder, root: Node, q: Quality): void {
  const s = b.node(root, 'Stall');
  const frame = b.node(s, 'Frame');
  const post = b.mesh('Post', [box(0.09, 2.5, 0.09), 'Dark wood']);
  for (const [name, x, z] of [
    ['Post front left', -1.5, 0.55],
    ['Post front right', 1.5, 0.55],
    ['Post back left', -1.5, -0.95],
    ['Post back right', 1.5, -0.95],
  ] as const)
    b.node(frame, name, { at: [x, 0, z] }, post);
  b.node(frame, 'Front beam', { at: [0, 2.42, 0.55] }, b.mesh('Front beam', [box(3.2, 0.1, 0.1), 'Dark wood']));
  b.node(frame, 'Back beam', { at: [0, 2.72, -0.95] }, b.mesh('Back beam', [box(3.2, 0.1, 0.1), 'Dark wood']));
  const boards = b.mesh('Back board', [box(0.3, 2.6, 0.03), 'Old wood']);
  for (let i = 0; i < 10; i++) b.node(frame, `Back board ${i + 1}`, { at: [-1.36 + i * 0.302, 0.05, -0.92] }, boards);
  const counter = b.node(s, 'Counter');
  const plank = b.mesh('Counter plank', [box(3.1, 0.05, 0.205), 'Old wood']);
  const front = b.mesh('Counter board', [box(0.285, 0.86, 0.03), 'Old wood']);
  for (let i = 0; i < 3; i++) b.node(counter, `Plank ${i + 1}`, { at: [0, 0.92, 0.02 + i * 0.21] }, plank);
  for (let i = 0; i < 10; i++) b.node(counter, `Front board ${i + 1}`, { at: [-1.31 + i * 0.291, 0.06, 0.46] }, front);
  b.node(
    counter,
    'Cloth runner',
    { at: [0, 0.972, 0] },
    b.mesh('Cloth runner', [
      cloth(q(40, 6), q(24, 4), (u, v) => {
        const over = Math.max(0, v - 0.62);
        return [
          (u - 0.5) * 0.7,
          0.004 - over * 0.9,
          0.06 + Math.min(v, 0.62) * 0.78 + (over ? 0.012 * Math.sin(u * 22) * over * 4 + 0.012 : 0),
        ];
      }),
      'Bunting teal',
    ]),
  );
  const shelf = b.node(s, 'Shelf');
  for (const [k, y] of [
    [1, 1.42],
    [2, 1.82],
  ] as const)
    b.node(
      shelf,
      `Shelf board ${k}`,
      { at: [0, y, -0.74] },
      b.mesh(`Shelf board ${k}`, [box(2.8, 0.035, 0.3), 'Old wood']),
    );
  const sag = (u: number, v: number): V3 => {
    const drop = v * v * 0.42;
    return [
      (u - 0.5) * 3.7,
      2.86 - v * 0.42 - drop * 0.35 - 0.05 * Math.sin(Math.PI * Math.min(1, v)) * Math.sin(u * Math.PI * 7) ** 2,
      -1.1 + v * 2.2,
    ];
  };
  const awning = b.node(s, 'Awning');
  b.node(awning, 'Awning cloth', {}, b.mesh('Awning cloth', [cloth(q(140, 28), q(60, 8), sag), 'Awning cloth']));
  b.node(
    awning,
    'Awning valance',
    {},
    b.mesh('Awning valance', [
      cloth(q(224, 28), q(10, 2), (u, v) => {
        const [x, y, z] = sag(u, 1);
        const scallop = 0.16 + 0.07 * Math.abs(Math.sin(u * Math.PI * 14));
        return [x, y - v * scallop, z + 0.01 * Math.sin(u * 40) * v];
      }),
      'Awning cloth',
    ]),
  );
  b.node(
    s,
    'Name board',
    { at: [0, 2.46, 0.64], tilt: 4 },
    b.mesh('Name board', [
      merge([box(1.5, 0.3, 0.03), moved(box(1.56, 0.03, 0.05), 0, -0.02, 0), moved(box(1.56, 0.03, 0.05), 0, 0.29, 0)]),
      'Dark wood',
    ]),
  );
  const shutters = b.node(root, 'Shutters');
  const shutter = b.mesh('Shutter', [
    merge([
      box(0.97, 1.42, 0.03),
      moved(box(0.97, 0.07, 0.05), 0, 0.2, 0.01),
      moved(box(0.97, 0.07, 0.05), 0, 1.12, 0.01),
    ]),
    'Old wood',
  ]);
  for (let i = 0; i < 3; i++) b.node(shutters, `Shutter ${i + 1}`, { at: [-0.99 + i * 0.99, 0.98, 0.57] }, shutter);
}

function kettle(q: Quality, size: number): Parameters<typeof merge>[0] {
  const s = size;
  const a = q(64, 12);
  const body = lathe(
    [
      [0.0, 0],
      [0.62 * s, 0],
      [0.92 * s, 0.22 * s],
      [1 * s, 0.55 * s],
      [0.86 * s, 0.92 * s],
      [0.5 * s, 1.16 * s],
      [0.42 * s, 1.2 * s],
    ],
    a,
    q(40, 8),
  );
  const lid = moved(
    lathe(
      [
        [0.46 * s, 0],
        [0.44 * s, 0.05 * s],
        [0.2 * s, 0.14 * s],
        [0.06 * s, 0.17 * s],
        [0.05 * s, 0.22 * s],
        [0.13 * s, 0.3 * s],
        [0.1 * s, 0.37 * s],
        [0, 0.4 * s],
      ],
      a,
      q(28, 8),
    ),
    0,
    1.18 * s,
    0,
  );
  const spout = tube(
    [
      [0.8 * s, 0.5 * s, 0],
      [1.15 * s, 0.66 * s, 0],
      [1.3 * s, 0.98 * s, 0],
      [1.55 * s, 1.2 * s, 0],
    ],
    (t) => (0.2 - 0.11 * t) * s,
    q(32, 6),
    q(36, 5),
  );
  const handle = tube(
    Array.from({ length: 9 }, (_, i): V3 => {
      const t = (i / 8) * Math.PI;
      return [Math.cos(t) * 0.72 * s, 1.05 * s + Math.sin(t) * 0.95 * s, 0];
    }),
    () => 0.055 * s,
    q(24, 5),
    q(48, 8),
  );
  return [body, lid, spout, handle];
}

function ware(b: Builder, root: Node, q: Quality): void {
  const w = b.node(root, 'Ware');
  const top = 0.97;
  const r = randomizer(5);
  const kettles: [string, string, number, V3, number][] = [
    ['Kettle, large', 'Copper', 0.155, [0.08, top, 0.22], -24],
    ['Kettle, tall', 'Cast iron', 0.12, [-0.62, top, 0.14], 200],
    ['Kettle, small', 'Celadon', 0.1, [0.66, top, 0.28], 12],
  ];
  for (const [name, material, size, at, turn] of kettles)
    b.node(w, name, { at, turn }, b.mesh(name, [merge(kettle(q, size)), material]));
  const cup = lathe(
    [
      [0, 0],
      [0.022, 0],
      [0.024, 0.008],
      [0.036, 0.03],
      [0.042, 0.066],
      [0.0425, 0.07],
      [0.039, 0.066],
      [0.033, 0.03],
      [0.02, 0.012],
      [0, 0.01],
    ],
    q(48, 8),
    q(28, 9),
  );
  const tea = moved(
    lathe(
      [
        [0, 0],
        [0.0375, 0.0005],
      ],
      q(32, 8),
      1,
    ),
    0,
    0.055,
    0,
  );
  const cupMesh = b.mesh('Cup', [cup, 'Cream glaze']);
  const fullCup = b.mesh('Cup of tea', [cup, 'Cream glaze'], [tea, 'Tea']);
  const cups = b.node(w, 'Cups');
  const places: V3[] = [
    [0.33, top, 0.37],
    [0.42, top, 0.29],
    [-0.18, top, 0.37],
    [-0.29, top, 0.33],
    [0.24, top, 0.1],
    [0.9, top, 0.38],
    [1.0, top, 0.3],
    [-0.95, top, 0.36],
    [-1.06, top, 0.3],
    [-0.4, top, 0.4],
  ];
  places.forEach((at, i) => b.node(cups, `Cup ${i + 1}`, { at, turn: r() * 360 }, i % 3 === 2 ? cupMesh : fullCup));
  for (let i = 0; i < 8; i++)
    b.node(cups, `Stacked cup ${i + 1}`, { at: [1.22, top + i * 0.026, 0.12], turn: r() * 360 }, cupMesh);
  b.node(
    w,
    'Brass tray',
    { at: [-0.98, top, 0.33] },
    b.mesh('Brass tray', [
      lathe(
        [
          [0, 0.004],
          [0.2, 0.004],
          [0.225, 0.022],
          [0.232, 0.022],
          [0.21, 0],
          [0, 0],
        ],
        q(72, 14),
        q(18, 5),
      ),
      'Brass',
    ]),
  );
  const bowl = b.mesh('Bowl', [
    lathe(
      [
        [0, 0],
        [0.035, 0],
        [0.05, 0.014],
        [0.085, 0.05],
        [0.098, 0.075],
        [0.094, 0.075],
        [0.078, 0.048],
        [0.04, 0.016],
        [0, 0.012],
      ],
      q(64, 10),
      q(26, 8),
    ),
    'Celadon',
  ]);
  for (let i = 0; i < 4; i++) b.node(w, `Bowl ${i + 1}`, { at: [-1.28, top + i * 0.022, 0.16], turn: i * 40 }, bowl);
  const canisters = b.node(w, 'Canisters');
  const canister = (material: string) =>
    b.mesh(
      `Canister, ${material.toLowerCase()}`,
      [
        lathe(
          [
            [0, 0],
            [0.068, 0],
            [0.073, 0.006],
            [0.073, 0.16],
            [0.07, 0.165],
          ],
          q(48, 9),
          q(10, 4),
        ),
        material,
      ],
      [
        moved(
          lathe(
            [
              [0.074, 0],
              [0.075, 0.03],
              [0.06, 0.04],
              [0.018, 0.044],
              [0.014, 0.055],
              [0.018, 0.064],
              [0, 0.068],
            ],
            q(48, 9),
            q(16, 5),
          ),
          0,
          0.165,
          0,
        ),
        'Brass',
      ],
    );
  const kinds = ['Indigo enamel', 'Cream glaze', 'Celadon', 'Copper'].map(canister);
  for (let i = 0; i < 13; i++)
    b.node(
      canisters,
      `Canister ${i + 1}`,
      { at: [-1.26 + i * 0.21, 1.855, -0.74], turn: r() * 360 },
      kinds[(i * 7) % 4]!,
    );
  const jars = b.node(w, 'Jars');
  const jar = b.mesh(
    'Jar',
    [
      lathe(
        [
          [0, 0],
          [0.07, 0],
          [0.08, 0.012],
          [0.082, 0.14],
          [0.07, 0.18],
          [0.06, 0.19],
          [0.056, 0.19],
          [0.064, 0.176],
          [0.075, 0.138],
          [0.073, 0.02],
          [0, 0.016],
        ],
        q(64, 10),
        q(44, 10),
      ),
      'Jar glass',
    ],
    [
      moved(
        lathe(
          [
            [0, 0],
            [0.064, 0.002],
            [0.068, 0.02],
            [0.068, 0.09],
            [0.04, 0.104],
            [0, 0.108],
          ],
          q(40, 8),
          q(16, 5),
        ),
        0,
        0.02,
        0,
      ),
      'Tea leaves',
    ],
    [
      moved(
        lathe(
          [
            [0, 0],
            [0.064, 0],
            [0.066, 0.024],
            [0, 0.03],
          ],
          q(40, 8),
          q(6, 3),
        ),
        0,
        0.191,
        0,
      ),
      'Old wood',
    ],
  );
  for (let i = 0; i < 11; i++)
    b.node(jars, `Jar ${i + 1}`, { at: [-1.2 + i * 0.24, 1.455, -0.72], turn: r() * 360 }, jar);
  b.node(jars, 'Jar on the counter', { at: [-0.16, top, 0.1], scale: 1.15 }, jar);
}

function lanterns(b: Builder, root: Node, q: Quality): void {
  const group = b.node(root, 'Lanterns');
  const s = 0.17;
  const ribs = Array.from({ length: 15 }, (_, i): [number, number] => {
    const t = i / 14;
    const a = (t - 0.5) * Math.PI * 0.86;
    return [s * Math.cos(a) * (1 + (i % 2 ? 0.035 : 0)), s * 0.95 * Math.sin(a) * 1.05];
  });
  const shell = lathe(ribs, q(48, 8), q(42, 7));
  const ring = lathe(
    [
      [0.055, -0.02],
      [0.062, -0.02],
      [0.062, 0.02],
      [0.055, 0.02],
    ],
    q(32, 6),
    q(6, 3),
  );
  const mesh = b.mesh(
    'Lantern',
    [shell, 'Lantern paper'],
    [
      merge([
        moved(ring, 0, 0.17, 0),
        moved(ring, 0, -0.17, 0),
        moved(
          tube(
            [
              [0, 0, 0],
              [0, 0.42, 0],
            ],
            () => 0.006,
            5,
            1,
          ),
          0,
          0.17,
          0,
        ),
      ]),
      'Cast iron',
    ],
  );
  const spots: V3[] = [
    [-1.18, 2.02, 0.72],
    [1.18, 2.02, 0.72],
    [-0.42, 2.08, 0.86],
    [0.46, 2.1, 0.86],
    [-2.6, 2.6, 1.9],
    [2.5, 2.65, 2.3],
    [-2.4, 2.8, 4.6],
    [2.55, 2.7, 5.2],
    [-2.5, 2.75, 7.6],
    [2.4, 2.85, 8.2],
    [-2.4, 2.7, 10.8],
    [2.5, 2.8, 11.4],
    [0.1, 3.1, 13.4],
    [-0.9, 2.05, -0.45],
  ];
  spots.forEach((at, i) => {
    const holder = b.node(group, `Lantern ${i + 1}`, { at, turn: i * 37, scale: i < 4 ? 0.86 : 1 });
    b.node(holder, 'Paper', {}, mesh);
    b.point(holder, 'Flame', [0, -0.235, 0], i < 4 ? 1.5 : 2.2, LANTERN, 0.05);
  });
}

function dressing(b: Builder, root: Node, q: Quality): void {
  const d = b.node(root, 'Dressing');
  const r = randomizer(77);
  const bunting = b.node(root, 'Bunting');
  const flags = ['Bunting red', 'Bunting straw', 'Bunting teal'].map((m) =>
    b.mesh(`Pennant, ${m.slice(8)}`, [pennant(0.17, 0.24), m]),
  );
  const lines: [V3, V3][] = [
    [
      [-3.7, 3.3, 1.4],
      [3.7, 3.5, 2.2],
    ],
    [
      [-3.7, 3.5, 3.6],
      [3.7, 3.3, 3.2],
    ],
    [
      [-3.7, 3.4, 6.2],
      [3.7, 3.6, 6.8],
    ],
    [
      [-3.7, 3.6, 9.6],
      [3.7, 3.4, 9.2],
    ],
  ];
  lines.forEach(([a, z], k) => {
    const at = (t: number): V3 => [
      a[0] + (z[0] - a[0]) * t,
      a[1] + (z[1] - a[1]) * t - 0.42 * Math.sin(Math.PI * t),
      a[2] + (z[2] - a[2]) * t,
    ];
    const line = b.node(bunting, `Line ${k + 1}`);
    b.node(
      line,
      'Rope',
      {},
      b.mesh(`Bunting rope ${k + 1}`, [
        tube(
          Array.from({ length: 13 }, (_, i) => at(i / 12)),
          () => 0.008,
          5,
          q(48, 12),
        ),
        'Rope',
      ]),
    );
    for (let i = 1; i < q(30, 14); i++)
      b.node(
        line,
        `Pennant ${i}`,
        {
          at: at(i / q(30, 14)),
          turn: (Math.atan2(-(z[2] - a[2]), z[0] - a[0]) * 180) / Math.PI + (r() - 0.5) * 30,
          tilt: (r() - 0.5) * 24,
        },
        flags[i % 3]!,
      );
  });
  const slats = merge(
    [0, 1, 2]
      .flatMap((i) => [
        moved(box(0.52, 0.09, 0.018), 0, 0.02 + i * 0.12, 0.2),
        moved(box(0.52, 0.09, 0.018), 0, 0.02 + i * 0.12, -0.2),
        moved(box(0.018, 0.09, 0.4), 0.26, 0.02 + i * 0.12, 0),
        moved(box(0.018, 0.09, 0.4), -0.26, 0.02 + i * 0.12, 0),
      ])
      .concat([moved(box(0.5, 0.015, 0.38), 0, 0.02, 0)]),
  );
  const crate = b.mesh('Crate', [slats, 'Old wood']);
  const crates = b.node(d, 'Crates');
  for (const [i, at, turn] of [
    [1, [-1.95, 0.02, 0.7], 12],
    [2, [-1.9, 0.4, 0.68], -9],
    [3, [-2.5, 0.02, 0.4], 40],
    [4, [2.05, 0.02, 0.5], -20],
  ] as const)
    b.node(crates, `Crate ${i}`, { at, turn }, crate);
  const pear = b.mesh('Quince', [pebble(0.055, 0.062, 0.055, 1, q(28, 6), q(20, 4)), 'Bunting straw']);
  const fruit = b.node(d, 'Quinces');
  for (let i = 0; i < 14; i++)
    b.node(
      fruit,
      `Quince ${i + 1}`,
      {
        at: [-1.9 + (r() - 0.5) * 0.38, 0.79 + (i > 9 ? 0.08 : 0) + r() * 0.02, 0.68 + (r() - 0.5) * 0.26],
        turn: r() * 360,
        tilt: r() * 70,
      },
      pear,
    );
  const stool = b.mesh('Stool', [
    merge([
      moved(
        lathe(
          [
            [0, 0],
            [0.17, 0],
            [0.18, 0.015],
            [0.17, 0.03],
            [0, 0.032],
          ],
          q(48, 10),
          q(10, 4),
        ),
        0,
        0.42,
        0,
      ),
      ...[0, 1, 2].map((k) =>
        tube(
          [
            [Math.cos(k * 2.09) * 0.17, 0, Math.sin(k * 2.09) * 0.17],
            [Math.cos(k * 2.09) * 0.1, 0.43, Math.sin(k * 2.09) * 0.1],
          ],
          () => 0.018,
          q(12, 5),
          2,
        ),
      ),
    ]),
    'Dark wood',
  ]);
  const stools = b.node(d, 'Stools');
  for (const [i, at] of [
    [1, [0.7, 0.02, 1.35]],
    [2, [-0.55, 0.02, 1.5]],
    [3, [1.75, 0.02, 1.7]],
  ] as const)
    b.node(stools, `Stool ${i}`, { at }, stool);
  const sack = b.mesh('Sack', [pebble(0.27, 0.34, 0.24, 0.75, q(48, 8), q(32, 6)), 'Sackcloth']);
  const sacks = b.node(d, 'Sacks');
  for (const [i, at, turn] of [
    [1, [2.1, 0.28, -0.25], 0],
    [2, [2.5, 0.28, 0.1], 50],
    [3, [2.3, 0.72, -0.15], 20],
  ] as const)
    b.node(sacks, `Sack ${i}`, { at, turn, tilt: i * 5 }, sack);
  const mirror = b.node(root, 'Mirror', { at: [-2.75, 0.04, -0.55], turn: 38, tilt: -7 });
  b.node(mirror, 'Mirror glass', { at: [0, 0.06, 0.022] }, b.mesh('Mirror glass', [panel(0.78, 1.62), 'Mirror']));
  b.node(
    mirror,
    'Mirror frame',
    {},
    b.mesh('Mirror frame', [
      merge([
        moved(box(0.92, 0.08, 0.05), 0, 0, 0),
        moved(box(0.92, 0.08, 0.05), 0, 1.66, 0),
        moved(box(0.08, 1.6, 0.05), -0.42, 0.06, 0),
        moved(box(0.08, 1.6, 0.05), 0.42, 0.06, 0),
        moved(box(0.84, 1.66, 0.015), 0, 0.04, -0.01),
      ]),
      'Dark wood',
    ]),
  );
}

function tree(b: Builder, root: Node, q: Quality): void {
  const t = b.node(root, 'Quince tree', { at: [3.05, 0, 0.2] });
  const r = randomizer(404);
  b.node(
    t,
    'Trunk',
    {},
    b.mesh('Trunk', [
      merge([
        tube(
          [
            [0, -0.1, 0],
            [0.05, 0.9, 0.02],
            [-0.08, 1.8, 0],
            [-0.25, 2.7, 0.1],
          ],
          (k) => 0.13 - 0.08 * k,
          q(24, 6),
          q(24, 4),
        ),
        tube(
          [
            [-0.05, 1.6, 0],
            [0.35, 2.3, 0.2],
            [0.6, 2.9, 0.3],
          ],
          (k) => 0.06 - 0.04 * k,
          q(16, 5),
          q(16, 3),
        ),
        tube(
          [
            [-0.06, 1.9, 0],
            [-0.7, 2.4, 0.35],
            [-1.1, 2.8, 0.6],
          ],
          (k) => 0.055 - 0.04 * k,
          q(16, 5),
          q(16, 3),
        ),
      ]),
      'Bark',
    ]),
  );
  const leaves = b.node(t, 'Leaves');
  const kinds: Mesh[] = ['Leaf', 'Autumn leaf'].map((m) => b.mesh(m, [leaf(q(0.075, 0.15), q(0.13, 0.26)), m]));
  const centres: V3[] = [
    [-0.25, 3, 0.1],
    [0.6, 3.05, 0.3],
    [-1.05, 2.95, 0.6],
    [-0.4, 3.5, 0.2],
    [0.15, 3.3, -0.3],
  ];
  for (let i = 0; i < q(2600, 260); i++) {
    const c = centres[i % 5]!;
    const a = r() * Math.PI * 2;
    const z = r() * 2 - 1;
    const k = 0.62 * Math.cbrt(r());
    const s = Math.sqrt(1 - z * z);
    b.node(
      leaves,
      `Leaf ${i + 1}`,
      {
        at: [c[0] + Math.cos(a) * s * k * 1.2, c[1] + z * k * 0.75, c[2] + Math.sin(a) * s * k * 1.2],
        turn: r() * 360,
        tilt: (r() - 0.3) * 90,
        roll: (r() - 0.5) * 60,
      },
      kinds[r() < 0.4 ? 1 : 0]!,
    );
  }
  const fallen = b.node(root, 'Fallen leaves');
  for (let i = 0; i < q(160, 20); i++)
    b.node(
      fallen,
      `Fallen leaf ${i + 1}`,
      { at: [1.2 + r() * 2.3, q(0.055, 0.09) + r() * 0.02, r() * 3.2 - 0.2], turn: r() * 360, tilt: (r() - 0.5) * 20 },
      kinds[1]!,
    );
}

function lights(b: Builder, root: Node): void {
  const l = b.node(root, 'Lights');
  b.spot(l, 'Counter lamp', [0.05, 2.36, 0.5], [0.02, 0.97, 0.2], 6.5, [1, 0.72, 0.42], 42, 0.06);
  b.sun(l, 'Evening sun', [0.75, -0.42, -0.8], 0.9, [1, 0.66, 0.4]);
  b.rectangle(l, 'Photographer’s panel', [-1.6, 2.3, 3.1], [0.1, 1.05, 0.2], 1.4, 1, 1.2, [1, 0.93, 0.84]);
}

function cameras(b: Builder, root: Node): void {
  const c = b.node(root, 'Cameras');
  b.camera(c, 'Stall from the lane', [0.75, 1.62, 5.6], [0.02, 1.42, 0.1], [1920, 1080], 38);
  b.camera(c, 'Counter, close', [0.55, 1.36, 2.3], [0.1, 1.1, 0.2], [1600, 900], 62, 4);
  b.camera(c, 'Kettle square', [0.42, 1.3, 1.75], [0.1, 1.11, 0.22], [1500, 1500], 80, 5.6);
  b.camera(c, 'Lane upright', [-1.5, 1.45, 4.3], [0.6, 1.75, -0.6], [1080, 1350], 30);
  b.camera(c, 'Down on the ware', [0.1, 2.25, 1.55], [0.02, 0.99, 0.2], [1600, 1200], 46, 5.6);
  b.camera(c, 'From behind the counter', [-0.5, 1.55, -0.62], [0.5, 1.3, 4.2], [2000, 1000], 24);
}
