// Light where it was wrong once: inside tinted solids, of lamps that are cut out, in coats over clear glass, and where
// what glows is not seen in reflections.
import { lookAt } from '@variscen/core/scene';
import { describe, expect, it } from 'vitest';
import { MASK, type EngineInstance, type EngineLight, type EngineMaterial, type EngineMesh } from '../host/index.ts';
import {
  IDENTITY,
  constantSky,
  downCamera,
  floor,
  frontCamera,
  glow,
  leaningNormals,
  matte,
  mean,
  scene,
  settings,
  shoot,
  sphere,
  translated,
} from './fixtures.ts';

type Part = readonly [EngineMesh, EngineMaterial, ArrayLike<number>?, number?];
const of = (...parts: readonly Part[]) => ({
  meshes: parts.map(([mesh]) => mesh),
  materials: parts.map(([, material]) => material),
  instances: parts.map(([mesh, , matrix, mask], i): EngineInstance => ({
    name: `${mesh.name} ${i}`,
    mesh: i,
    material: i,
    matrix: matrix ?? IDENTITY,
    mask: mask ?? MASK.ALL,
  })),
});
/** Towards +Z. */
const upright = (x: number, y: number, z: number) => [1, 0, 0, 0, 0, 0, -1, 0, 0, 1, 0, 0, x, y, z, 1];
/** Nothing but tint: light goes straight through. */
const tint = (perM: number): EngineMaterial => ({
  ...matte,
  transmission: 1,
  roughness: 0,
  ior: 1,
  specular: 0,
  solid: true,
  doubleSided: false,
  attenuation: [perM, perM, perM],
});
const both = (m: EngineMaterial): EngineMaterial => ({ ...m, doubleSided: true });

describe('a tinted solid', () => {
  const look = { camera: frontCamera(4, 0.01), settings: settings(8, 8, 8), samples: 16 };
  const card = both(glow([1, 1, 1]));

  it('tints what stands inside it, by how far light goes in it', async () => {
    for (const [z, metres] of [
      [0, 1],
      [0.5, 0.5],
      [-0.9, 1.9],
    ] as const) {
      const film = await shoot(scene(of([sphere(), tint(1)], [floor(0.2), card, upright(0, 0, z)])), look);
      expect(mean(film) / Math.exp(-metres), `${metres} m`).toBeCloseTo(1, 2);
    }
  });

  it('tints what stands behind it, and what the camera sees from inside it, as before', async () => {
    const behind = scene(of([sphere(), tint(0.5)], [floor(3), card, upright(0, 0, -3)]));
    expect(mean(await shoot(behind, look))).toBeCloseTo(Math.exp(-1), 2);
    const within = scene(of([sphere(), tint(0.5)], [floor(3), card, upright(0, 0, -3)]));
    const film = await shoot(within, { ...look, camera: { ...look.camera, matrix: translated(0, 0, 0) } });
    expect(mean(film)).toBeCloseTo(Math.exp(-0.5), 2);
  });

  it('tints the light of a lamp inside it, on its way to what it lights and from there out', async () => {
    const lamp: EngineLight = { type: 'point', position: [0, 0, 0.5], intensityCd: [5, 5, 5], radiusM: 0 };
    const lit = { ...of([sphere(), tint(1)], [floor(0.2), matte, upright(0, 0, 0)]), lights: [lamp] };
    const film = await shoot(scene(lit), { ...look, camera: frontCamera(4, 0.002), settings: settings(8, 8, 3) });
    // 5 cd at 0.5 m on white: half a metre there, one metre out
    expect(mean(film) / ((5 / 0.25 / Math.PI) * Math.exp(-1.5))).toBeCloseTo(1, 2);
  });

  it('in another one tints along its own part of the way alone', async () => {
    const nested: readonly Part[] = [
      [sphere(), tint(0.4)],
      [sphere(48, 0.5), tint(1)],
    ];
    const many = { ...look, samples: 128 };
    const behind = await shoot(scene(of(...nested, [floor(3), card, upright(0, 0, -3)])), many);
    expect(mean(behind) / Math.exp(-(0.2 + 1 + 0.2))).toBeCloseTo(1, 1);
    const inside = await shoot(scene(of(...nested, [floor(0.1), card, upright(0, 0, -0.75)])), many);
    expect(mean(inside) / Math.exp(-(0.2 + 1 + 0.1))).toBeCloseTo(1, 1);
  });
});

describe('a lamp that is cut out, or half there', () => {
  const lamp = (m: Partial<EngineMaterial>) =>
    scene(of([floor(3), matte], [floor(0.5), both({ ...glow([4, 4, 4]), ...m }), translated(0, 1.5, 0)]));
  const under = { camera: { ...downCamera(1, 0.01) }, settings: settings(16, 16, 1), samples: 256 };
  const light = async (m: Partial<EngineMaterial>) => mean(await shoot(lamp(m), under));

  it('lights by as much of it as is there', async () => {
    const whole = await light({});
    expect(whole).toBeGreaterThan(0.3);
    expect(await light({ alphaMode: 'mask', alphaCutoff: 0.5, baseColor: [0, 0, 0, 0.4] })).toBe(0);
    expect((await light({ alphaMode: 'mask', alphaCutoff: 0.3, baseColor: [0, 0, 0, 0.4] })) / whole).toBeCloseTo(1, 1);
    for (const alpha of [0.3, 0.8])
      expect((await light({ alphaMode: 'blend', baseColor: [0, 0, 0, alpha] })) / whole).toBeCloseTo(alpha, 1);
  });
});

describe('over fully clear glass', () => {
  /** @param z of the sun's light: the camera looks along −Z */
  const shine = async (m: Partial<EngineMaterial>, z: number) => {
    const direction = [0, -0.6, z] as const;
    const lamp: EngineLight = { type: 'sun', direction, illuminanceLux: [9, 9, 9], angularDiameterRad: 0 };
    const glass = { ...matte, roughness: 0, ior: 1.5, specular: 1, solid: true, ...m };
    const film = await shoot(scene({ ...of([floor(1), glass]), lights: [lamp] }), {
      camera: { ...downCamera(1, 0.05), matrix: lookAt([0, 0.5, 1], [0, 0, 0]) },
      settings: settings(16, 16, 2),
      samples: 256,
    });
    return mean(film);
  };
  it.each([
    ['coat, mirrored', { coat: 1, coatRoughness: 0.4 }, 0.8],
    ['sheen, from behind', { sheen: [0.8, 0.8, 0.8] as const, sheenRoughness: 0.5 }, -0.8],
  ])('a %s, shows its highlight as over glass that is nearly clear', async (_name, layer, z) => {
    const clear = await shine({ ...layer, transmission: 1 }, z);
    const nearly = await shine({ ...layer, transmission: 0.999 }, z);
    expect(clear).toBeGreaterThan(0.005);
    expect(clear / nearly).toBeGreaterThan(0.93);
    expect(clear / nearly).toBeLessThan(1.07);
  });
});

describe('what glows and is not seen in reflections', () => {
  const room = (m: Partial<EngineMaterial>, mask: number) =>
    scene(of([floor(3), { ...matte, ...m }], [floor(0.7), both(glow([4, 4, 4])), translated(0, 1.2, 0), mask]));
  const under = { camera: downCamera(1, 0.05), settings: settings(16, 16, 1), samples: 512 };
  const light = async (m: Partial<EngineMaterial>, mask: number) => mean(await shoot(room(m, mask), under));
  const unseen = MASK.ALL & ~MASK.SPECULAR;

  it('shows in metal neither smooth nor rough', async () => {
    for (const [roughness, most] of [
      [0.1, 0.02],
      [0.4, 0.1],
      // what rough metal loses and finds again is spread by the cosine, as diffuse light is
      [1, 0.8],
    ] as const) {
      const metal = { metallic: 1, roughness };
      const share = (await light(metal, unseen)) / (await light(metal, MASK.ALL));
      expect(share, `${roughness}`).toBeLessThan(most);
    }
  });
  it('lights what is matte as before, and takes from a glazed thing its highlight alone', async () => {
    expect((await light({}, unseen)) / (await light({}, MASK.ALL))).toBeCloseTo(1, 1);
    const glaze = { ior: 1.5, specular: 1, roughness: 0.3 };
    const black = { ...glaze, baseColor: [0, 0, 0, 1] as const };
    const [whole, matteOnly, highlight] = [
      await light(glaze, MASK.ALL),
      await light(glaze, unseen),
      await light(black, MASK.ALL),
    ];
    expect(matteOnly + highlight).toBeGreaterThan(whole * 0.96);
    expect(matteOnly + highlight).toBeLessThan(whole * 1.04);
  });
});

describe('a lamp whose light has a shape', () => {
  /** Strength by the angle from straight ahead and the angle about it, degrees. */
  const shaped = (f: (deg: number, aboutDeg: number) => number) =>
    Float32Array.from({ length: 91 * 8 }, (_, i) => f(Math.floor(i / 8) * 2, (i % 8) * 45));
  const at = (x: number, z: number) => ({
    ...downCamera(1, 0.004),
    matrix: [1, 0, 0, 0, 0, 0, -1, 0, 0, 1, 0, 0, x, 1, z, 1],
  });
  const point = (shares: Float32Array, radiusM = 0): EngineLight => ({
    type: 'point',
    position: [0, 1, 0],
    intensityCd: [5, 5, 5],
    radiusM,
    profile: { shares, axis: [0, -1, 0], across: [1, 0, 0] },
  });
  const under = async (light: EngineLight, x: number, z: number) => {
    const shot = { camera: at(x, z), settings: settings(8, 8, 1), samples: 64 };
    return mean(await shoot(scene({ ...of([floor(9), matte]), lights: [light] }), shot));
  };
  /** 5 cd from a metre above a point so far off, on white. */
  const even = (off: number) => (5 * Math.cos(Math.atan(off)) ** 3) / Math.PI;

  it('shines by its table, between its rows and columns too, a bulb with a size as well', async () => {
    const falling = shaped((deg) => Math.max(0, 1 - deg / 60));
    for (const radius of [0, 0.02])
      for (const off of [0, Math.tan(Math.PI / 6), Math.tan((35 * Math.PI) / 180)]) {
        const deg = (Math.atan(off) * 180) / Math.PI;
        expect((await under(point(falling, radius), off, 0)) / (even(off) * (1 - deg / 60))).toBeCloseTo(1, 1);
      }
    expect(await under(point(falling), 3, 0)).toBe(0);
  });
  it('is turned with its axis and what is across it', async () => {
    const oneSided = shaped((_, about) => (about === 0 ? 1 : 0));
    expect((await under(point(oneSided), 0.5, 0)) / even(0.5)).toBeCloseTo(1, 1);
    expect(await under(point(oneSided), -0.5, 0)).toBe(0);
    expect(await under(point(oneSided), 0, 0.5)).toBe(0);
    const spot: EngineLight = {
      type: 'spot',
      position: [0, 1, 0],
      direction: [0, -1, 0],
      intensityCd: [5, 5, 5],
      radiusM: 0,
      innerConeRad: 1.2,
      outerConeRad: 1.4,
      profile: { shares: oneSided, axis: [0, -1, 0], across: [0, 0, 1] },
    };
    expect((await under(spot, 0, 0.5)) / even(0.5)).toBeCloseTo(1, 1);
    expect(await under(spot, 0.5, 0)).toBe(0);
  });
});

describe('a panel whose light is spread less', () => {
  it('falls off as its angle says, sampled and met by rays alike, and is as bright straight ahead', async () => {
    const focus = Math.log(0.5) / Math.log(Math.cos(Math.PI / 6)); // half at 30° off
    const panel = (k: number | undefined): EngineLight => ({
      type: 'disc',
      matrix: [1, 0, 0, 0, 0, 0, -1, 0, 0, 1, 0, 0, 0, 2, 0, 1],
      radiusM: 0.02,
      radianceNits: [4000, 4000, 4000],
      ...(k !== undefined && { focus: k }),
    });
    const under = async (k: number | undefined, x: number, m: EngineMaterial) => {
      const camera = { ...downCamera(1, 0.004), matrix: [1, 0, 0, 0, 0, 0, -1, 0, 0, 1, 0, 0, x, 1, 0, 1] };
      const shot = { camera, settings: settings(8, 8, 1), samples: 128 };
      return mean(await shoot(scene({ ...of([floor(9), m]), lights: [panel(k)] }), shot));
    };
    const off = 2 * Math.tan(Math.PI / 6);
    expect((await under(focus, 0, matte)) / (await under(undefined, 0, matte))).toBeCloseTo(1, 1);
    expect((await under(focus, off, matte)) / (await under(undefined, off, matte))).toBeCloseTo(0.5, 1);
    // a mirror shows it by rays alone: seen from 30° off its normal it is half as bright
    const mirror = { ...matte, metallic: 1, roughness: 0 };
    const seen = async (k: number | undefined) => {
      const camera = { ...downCamera(1, 0.004), matrix: lookAt([2 * off, 2, 0], [off, 0, 0]), halfHeight: 0.002 };
      const shot = { camera, settings: settings(8, 8, 2), samples: 16 };
      return mean(await shoot(scene({ ...of([floor(9), mirror]), lights: [panel(k)] }), shot));
    };
    expect(await seen(undefined)).toBeGreaterThan(3000);
    expect((await seen(focus)) / (await seen(undefined))).toBeCloseTo(0.5, 1);
  });
});

describe('a panel that shows a picture', () => {
  // red, green above blue, white: as it is seen by what it lights
  const texels = Uint8Array.from([255, 0, 0, 255, 0, 255, 0, 255, 0, 0, 255, 255, 255, 255, 255, 255]);
  const quarters = { name: 'quarters', width: 2, height: 2, data: texels };
  /** Stands upright and shines towards +Z. */
  const panel = (type: 'rectangle' | 'disc'): EngineLight => {
    const matrix = [-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, -1, 0, 0, 0, 0, 1];
    const light = { matrix, radianceNits: [2, 2, 2] as const, seenByCamera: true, picture: 0 };
    return type === 'disc' ? { ...light, type, radiusM: 1 } : { ...light, type, widthM: 2, heightM: 2 };
  };
  const at = (film: Float32Array, x: number, y: number) => [...film.slice((y * 8 + x) * 4, (y * 8 + x) * 4 + 3)];

  it.each(['rectangle', 'disc'] as const)('a %s is seen the right way round, and lights by it', async (type) => {
    const look = { camera: frontCamera(4, 0.2), settings: settings(8, 8, 1), samples: 16 };
    const film = await shoot({ ...scene({ lights: [panel(type)] }), textures: [quarters] }, look);
    for (const [x, y, wanted] of [
      [1, 1, [2, 0, 0]],
      [6, 1, [0, 2, 0]],
      [1, 6, [0, 0, 2]],
      [6, 6, [2, 2, 2]],
    ] as const)
      at(film, x, y).forEach((v, c) => expect(Math.abs(v - wanted[c]!)).toBeLessThan(0.3)); // texels blend
    const wall = of([floor(0.05), matte, [1, 0, 0, 0, 0, 0, 1, 0, 0, -1, 0, 0, 0, 0, 2, 1]]);
    const shot = {
      camera: { ...frontCamera(0, 0.01), matrix: lookAt([0, 0, 1.9], [0, 0, 2]) },
      settings: settings(8, 8, 1),
      samples: 512,
    };
    const lightOf = (picture: object) => ({ ...panel(type), ...picture, seenByCamera: false }) as EngineLight;
    const lit = (picture: object) => ({ ...scene({ ...wall, lights: [lightOf(picture)] }), textures: [quarters] });
    const share = await shoot(lit({}), shot);
    const white = await shoot(lit({ picture: undefined }), shot);
    // half of it gives each colour
    for (let c = 0; c < 3; c++) {
      const of = (f: Float32Array) => f.reduce((sum, v, i) => (i % 4 === c ? sum + v : sum), 0);
      expect(of(share) / of(white)).toBeCloseTo(0.5, 1);
    }
  });
});

describe('a coarse mesh with smooth normals', () => {
  const sun: EngineLight = {
    type: 'sun',
    direction: [-1, -0.15, -0.1],
    illuminanceLux: [3, 3, 3],
    angularDiameterRad: 0.01,
  };
  const ball = (rings: number, radius = 1) => scene({ ...of([sphere(rings, radius), matte]), lights: [sun] });
  const shot = { camera: frontCamera(4, 0.27), settings: settings(64, 64, 1), samples: 16 };
  const green = (film: Float32Array) => film.filter((_, i) => i % 4 === 1);
  /** Pixels well within both outlines. */
  const inner = (light: Float32Array) =>
    light.filter((_, i) => Math.hypot((i % 64) - 31.5, Math.floor(i / 64) - 31.5) < 26);

  it('is lit as the round thing that it stands for, with no dark facets where its light ends', async () => {
    const fine = inner(green(await shoot(ball(128), shot)));
    const coarse = inner(green(await shoot(ball(12, 1.006), shot)));
    let far = 0;
    let most = 0;
    for (let i = 0; i < fine.length; i++) {
      far += Math.abs(coarse[i]! - fine[i]!) / fine.length;
      most = Math.max(most, Math.abs(coarse[i]! - fine[i]!));
    }
    expect(far).toBeLessThan(0.0015);
    expect(most).toBeLessThan(0.03);
  });

  it('lets no light through where it is hollow, nor through a wall whose normals are bent', async () => {
    const inside = { ...shot, camera: frontCamera(0.5, 0.5) };
    expect(mean(await shoot(ball(12), inside))).toBe(0);
    const wall = floor(1);
    const bent = {
      ...wall,
      normals: new Float32Array([-1, 1, -1, -1, 1, 1, 1, 1, 1, 1, 1, -1].map((x) => x / Math.sqrt(3))),
    };
    const below = { ...sun, direction: [0, 1, 0] } as const;
    const above = { camera: downCamera(2, 0.9), settings: settings(32), samples: 16 };
    expect(mean(await shoot(scene({ ...of([bent, matte]), lights: [below] }), above))).toBe(0);
  });

  it('is as bright as a flat one where its normals are those of its facets, and glass is as it was', async () => {
    const wall = floor(1);
    const flat = { ...wall, normals: new Float32Array([0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1, 0]) };
    const down = { ...sun, direction: [0.3, -1, 0.2] } as const;
    const above = { camera: downCamera(2, 0.9), settings: settings(16), samples: 8 };
    const lit = (m: EngineMesh) => shoot(scene({ ...of([m, matte]), lights: [down] }), above);
    expect([...(await lit(flat))]).toEqual([...(await lit(wall))]);
  });
});

describe('a surface whose normals a texture bends', () => {
  /** Normals that all lean as far towards +X. */
  const leaning = (degrees: number, material: EngineMaterial) => {
    const { texture, use } = leaningNormals(degrees);
    const wall = { ...floor(1), uv0: new Float32Array([0, 0, 0, 1, 1, 1, 1, 0]) };
    return { ...of([wall, { ...both(material), textures: { normal: use } }]), textures: [texture] };
  };
  const from = (degrees: number) => {
    const angle = (degrees * Math.PI) / 180;
    const eye = [2 * Math.sin(angle), 2 * Math.cos(angle), 0] as const;
    return {
      camera: { ...downCamera(2, 0.02), matrix: lookAt(eye, [0, 0, 0]) },
      settings: settings(16, 16, 4),
      samples: 256,
    };
  };

  it.each<[string, EngineMaterial]>([
    ['matte', matte],
    ['rough metal', { ...matte, metallic: 1, roughness: 0.5 }],
    ['a mirror', { ...matte, metallic: 1, roughness: 0 }],
    ['glossy', { ...matte, ior: 1.5, specular: 1, roughness: 0.3 }],
  ])('keeps all light, white and %s, however far they lean and from wherever it is seen', async (_name, material) => {
    for (const lean of [15, 40, 65])
      for (const seen of [0, 50, -50]) {
        const film = await shoot(scene({ ...leaning(lean, material), environment: constantSky(1) }), from(seen));
        expect(mean(film), `leaning ${lean}°, seen from ${seen}°`).toBeCloseTo(1, 1.4);
      }
  });
});
