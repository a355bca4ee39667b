// The environment as the real-time view shows it.
import { type EnvironmentMap, generateEnvironment } from '@variscen/core/environment';
import { type ResolvedState, skyOf } from '@variscen/core/looks';
import * as THREE from 'three';
import { SkyMaps } from './skyMaps.ts';

/**
 * Looks through fog like the renderer's exponential fall where half of the light is gone: exp(−(d z)²) = exp(−σ z) = ½.
 */
const FOG_DENSITY = 1 / Math.sqrt(Math.LN2);
const MAP_HEIGHT = 64;
type Sky = ReturnType<typeof skyOf>;

/** Puts the environment and the fog of a look into a scene, making maps only when they change. */
export class Skies {
  private readonly made = new Map<string, Made>();
  private readonly maps: SkyMaps;
  private last: ResolvedState | undefined;
  constructor(
    private readonly scene: THREE.Scene,
    private readonly pmrem: THREE.PMREMGenerator,
    private readonly hasHardware: boolean,
    changed: () => void,
    failed: (message: string) => void,
  ) {
    this.maps = new SkyMaps({
      failed,
      arrived: () => {
        this.clear();
        if (this.last) this.show(this.last);
        changed();
      },
    });
  }

  /** A map for the view, which shows it smaller; undefined for none, and while one is on its way. */
  private map(sky: Sky): EnvironmentMap | undefined {
    return typeof sky === 'string' ? generateEnvironment(sky, MAP_HEIGHT) : sky && this.maps.get(sky);
  }

  show(state: ResolvedState): void {
    this.last = state;
    const get = (p: string) => state.get('environment', `environment.${p}`);
    const kind = skyOf(state, get('kind'));
    const seen = get('seen') === 'same' ? kind : skyOf(state, get('seen'));
    const strength = Number(get('strength') ?? 1);
    const turn = Number(get('turn') ?? 0);
    const tint = (get('tint') ?? [1, 1, 1]) as readonly [number, number, number];
    const key = JSON.stringify([kind, seen, turn, tint]);
    this.scene.environmentIntensity = strength;
    this.scene.backgroundIntensity = strength;
    let made = this.made.get(key);
    if (!made) made = this.make(kind, seen, turn, tint);
    this.made.delete(key);
    this.made.set(key, made); // the one that was shown last is dropped last
    for (const [k, old] of this.made)
      if (this.made.size > SKIES_KEPT) {
        drop(old);
        this.made.delete(k);
      }
    this.scene.background = made.background;
    this.scene.environment = made.target?.texture ?? null;
    const density = Number(get('fogDensity') ?? 0);
    const albedo = (get('fogColor') ?? [1, 1, 1]) as readonly [number, number, number];
    this.scene.fog =
      density > 0
        ? new THREE.FogExp2(
            new THREE.Color(...(albedo.map((a, c) => a * made.mean[c]! * strength) as [number, number, number])),
            density * FOG_DENSITY,
          )
        : null;
  }

  private make(kind: Sky, seen: Sky, turn: number, tint: readonly [number, number, number]): Made {
    const map = this.map(kind);
    const shown = this.map(seen);
    const background = shown ? texture(shown, turn, tint) : null;
    if (!map) return { background, target: undefined, mean: [0, 0, 0] };
    const lighting = seen === kind && background ? background : texture(map, turn, tint);
    const target = this.pmrem.fromEquirectangular(lighting, this.hasHardware ? null : smallTarget());
    if (lighting !== background) lighting.dispose();
    return { background, target, mean: mean(map, tint) };
  }

  free(): void {
    this.maps.free();
    this.clear();
  }
  private clear(): void {
    for (const m of this.made.values()) drop(m);
    this.made.clear();
    this.scene.background = null;
    this.scene.environment = null;
  }
}
/** What flipping through variants comes back to. */
const SKIES_KEPT = 8;
interface Made {
  readonly background: THREE.Texture | null;
  readonly target: THREE.WebGLRenderTarget | undefined;
  readonly mean: readonly [number, number, number];
}

/**
 * Edge of a sky's faces where there is no graphics card: at three's 256, each sky would hold the view up for seconds.
 */
const SMALL_FACE_PX = 64;
/** Edge of the roughest level's faces, as three has it. */
const ROUGHEST_FACE_PX = 8;

/** What a sky is filtered into, smaller than three would make it. */
function smallTarget(): THREE.WebGLCubeRenderTarget {
  const target = new THREE.WebGLCubeRenderTarget(SMALL_FACE_PX, {
    minFilter: THREE.LinearMipmapLinearFilter,
    generateMipmaps: false,
    type: THREE.HalfFloatType,
    colorSpace: THREE.LinearSRGBColorSpace,
    depthBuffer: false,
  });
  for (let size = SMALL_FACE_PX; size >= ROUGHEST_FACE_PX; size /= 2)
    target.texture.mipmaps.push({ width: size, height: size } as never);
  (target.texture as { isPMREMTexture?: boolean }).isPMREMTexture = true;
  return target;
}

const drop = (m: Made): void => {
  m.background?.dispose();
  m.target?.dispose();
};

function mean(map: EnvironmentMap, tint: readonly [number, number, number]): readonly [number, number, number] {
  const sum = [0, 0, 0];
  const n = map.width * map.height;
  map.data.forEach((x, i) => {
    sum[i % 3]! += x;
  });
  return [0, 1, 2].map((c) => (sum[c]! / n) * tint[c]!) as unknown as readonly [number, number, number];
}

/** Ours: middle column along −Z, row 0 up; three's: quarter turn on, row 0 down. */
function texture(
  { width, height, data }: EnvironmentMap,
  turnDeg: number,
  tint: readonly [number, number, number],
): THREE.DataTexture {
  const out = new Uint16Array(width * height * 4);
  const shift = Math.round((turnDeg / 360 + 0.25) * width);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const from = ((height - 1 - y) * width + ((((x + shift) % width) + width) % width)) * 3;
      const to = (y * width + x) * 4;
      for (let c = 0; c < 3; c++) out[to + c] = THREE.DataUtils.toHalfFloat(data[from + c]! * tint[c]!);
      out[to + 3] = THREE.DataUtils.toHalfFloat(1);
    }
  const t = new THREE.DataTexture(out, width, height, THREE.RGBAFormat, THREE.HalfFloatType);
  t.mapping = THREE.EquirectangularReflectionMapping;
  t.magFilter = t.minFilter = THREE.LinearFilter;
  t.needsUpdate = true;
  return t;
}
