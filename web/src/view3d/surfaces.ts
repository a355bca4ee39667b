// Materials and textures as the real-time view shows them: an approximation of what the renderer makes of them.
import {
  type DrawnLook,
  type LaidMap,
  type ResolvedState,
  type Value,
  mapsOf,
  materialTarget,
} from '@variscen/core/looks';
import * as THREE from 'three';
import { asset } from '../api/assets.ts';

/**
 * Samples along the longer side of what a pixel sees of a texture: without them stripes seen from below smear, which
 * renders show crisp.
 */
const ANISOTROPY = 8;

/** Textures that no material of the look wears are kept up to so many bytes, for flipping through looks. */
const KEPT_BYTES = 2 ** 28;

/** Four channels of a byte, and a third more for the smaller levels. */
const BYTES_PER_TEXEL = 16 / 3;

interface Loaded {
  readonly texture: THREE.Texture;
  /** On the graphics card, with its smaller levels; 0 while it is loading. */
  bytes: number;
  /** The show that wore it last. */
  worn: number;
}

export class Surfaces {
  private readonly materials = new Map<string, THREE.MeshStandardMaterial>();
  private readonly drawn = new Map<string, THREE.MeshStandardMaterial | THREE.MeshToonMaterial>();
  private readonly textures = new Map<string, Loaded>();
  private ghostly: THREE.Material | undefined;
  private catching: THREE.Material | undefined;
  private shows = 0;
  private freed = false;
  constructor(private readonly tell: { changed(): void; failed(message: string): void }) {}

  /** A look is shown: what it wears is told from what it does not. */
  begin(): void {
    this.shows++;
  }
  /** Lets go of textures that the look does not wear, the longest unworn first, where they take much. */
  end(): void {
    const unworn = [...this.textures].filter(([, t]) => t.worn < this.shows).sort((a, b) => a[1].worn - b[1].worn);
    let bytes = unworn.reduce((n, [, t]) => n + t.bytes, 0);
    for (const [key, t] of unworn) {
      if (bytes <= KEPT_BYTES) break;
      bytes -= t.bytes;
      this.textures.delete(key);
      release(t.texture);
    }
  }

  /**
   * What a material of the scene looks like in a state; the same object every time, with its values brought up to date.
   */
  material(name: string, state: ResolvedState): THREE.MeshStandardMaterial {
    const base = state.scene.material(name)!;
    const get = (p: string): Value | undefined => state.get(materialTarget(name), `material.${p}`);
    const color = (v: Value | undefined): [number, number, number] =>
      Array.isArray(v) ? (v as unknown as [number, number, number]) : [1, 1, 1];
    const number = (v: Value | undefined) => (typeof v === 'number' ? v : 0);
    let m = this.materials.get(name);
    if (!m) {
      m = new THREE.MeshStandardMaterial({ side: base.doubleSided ? THREE.DoubleSide : THREE.FrontSide });
      this.materials.set(name, m);
    }
    const maps = mapsOf(state, name);
    const now = {
      map: this.texture(maps.base, true),
      metalnessMap: this.texture(maps.metallicRoughness, false),
      roughnessMap: this.texture(maps.metallicRoughness, false),
      normalMap: this.texture(maps.normal, false),
      emissiveMap: this.texture(maps.emission, true),
    };
    // a map that comes or goes is another shader
    if ((Object.keys(now) as (keyof typeof now)[]).some((k) => (now[k] === null) !== (m[k] === null)))
      m.needsUpdate = true;
    Object.assign(m, now);
    m.normalScale.setScalar(number(get('normalScale')));
    m.color.setRGB(...color(get('baseColor')));
    m.metalness = number(get('metallic'));
    m.roughness = number(get('roughness'));
    m.emissive.setRGB(...color(get('emissionColor')));
    m.emissiveIntensity = number(get('emissionStrength'));
    // glass is only hinted at here; the renderer refracts it
    const clear = number(get('transmission'));
    m.transparent = clear > 0;
    m.opacity = 1 - 0.7 * clear;
    m.depthWrite = clear === 0;
    return m;
  }

  /** Clay, or the flat tones of the drawn look; its lines are for the renderer. */
  drawnMaterial(name: string, looks: DrawnLook, state: ResolvedState): THREE.Material {
    const own = this.material(name, state);
    const key = `${looks} ${looks === 'clay' ? own.side : name}`;
    let m = this.drawn.get(key);
    if (!m)
      this.drawn.set(
        key,
        (m =
          looks === 'clay'
            ? new THREE.MeshStandardMaterial({ color: 0xc2c2c2, roughness: 0.85, side: own.side })
            : new THREE.MeshToonMaterial({ side: own.side, map: own.map })),
      );
    if (m instanceof THREE.MeshToonMaterial) {
      m.color.copy(own.color);
      if ((m.map === null) !== (own.map === null)) m.needsUpdate = true;
      m.map = own.map;
    }
    return m;
  }

  /** Of what a camera leaves out: seen through, and hiding nothing. */
  ghost(): THREE.Material {
    return (this.ghostly ??= new THREE.MeshBasicMaterial({
      color: 0x9aa0a6,
      transparent: true,
      opacity: 0.04,
      depthWrite: false,
    }));
  }

  /** Of what only catches shadow: the plate is seen through it. */
  catcher(): THREE.Material {
    return (this.catching ??= new THREE.MeshBasicMaterial({
      color: 0x9aa0a6,
      transparent: true,
      opacity: 0.16,
      depthWrite: false,
      side: THREE.DoubleSide,
    }));
  }

  private texture(ref: LaidMap | undefined, srgb: boolean): THREE.Texture | null {
    if (!ref) return null;
    const t = ref.texture;
    const key = `${t.blob} ${srgb} ${ref.matrix.join()} ${ref.wrapS} ${ref.wrapT}`;
    const known = this.textures.get(key);
    if (known) {
      known.worn = this.shows;
      return known.texture;
    }
    const wraps = {
      repeat: THREE.RepeatWrapping,
      clamp: THREE.ClampToEdgeWrapping,
      mirror: THREE.MirroredRepeatWrapping,
    };
    const texture = new THREE.Texture();
    texture.colorSpace = srgb ? THREE.SRGBColorSpace : THREE.NoColorSpace;
    texture.wrapS = wraps[ref.wrapS];
    texture.wrapT = wraps[ref.wrapT];
    texture.flipY = false;
    texture.anisotropy = ANISOTROPY;
    texture.matrixAutoUpdate = false;
    texture.matrix.set(
      ref.matrix[0],
      ref.matrix[1],
      ref.matrix[2],
      ref.matrix[3],
      ref.matrix[4],
      ref.matrix[5],
      0,
      0,
      1,
    );
    const loaded: Loaded = { texture, bytes: 0, worn: this.shows };
    this.textures.set(key, loaded);
    void asset(t.blob)
      .then((b) =>
        createImageBitmap(new Blob([b], { type: t.mediaType }), {
          imageOrientation: 'none',
          colorSpaceConversion: 'none',
        }),
      )
      .then(
        (image) => {
          if (this.freed || this.textures.get(key) !== loaded) {
            image.close();
            return;
          }
          loaded.bytes = image.width * image.height * BYTES_PER_TEXEL;
          texture.image = image;
          texture.needsUpdate = true;
          this.tell.changed();
        },
        () => {
          if (!this.freed) this.tell.failed(`Texture “${t.name}” could not be shown.`);
        },
      );
    return texture;
  }

  free(): void {
    this.freed = true;
    for (const m of [...this.materials.values(), ...this.drawn.values()]) m.dispose();
    this.ghostly?.dispose();
    this.catching?.dispose();
    for (const t of this.textures.values()) release(t.texture);
    this.textures.clear();
  }
}

function release(texture: THREE.Texture): void {
  texture.dispose();
  (texture.image as ImageBitmap | null | undefined)?.close();
}
