// Textures of a scene file, and how materials wear them.
import type { Texture, TextureInfo } from '@gltf-transform/core';
import type { Transform } from '@gltf-transform/extensions';
import type { SceneTexture, TextureRef } from '../scene/index.ts';
import type { Gathered } from './gathered.ts';

/** What is wrong with an encoded image, in a few words; null where it can be decoded to that size. */
export type CheckImage = (image: Uint8Array, widthPx: number, heightPx: number) => Promise<string | null>;

/** Pink and black, eight pixels square. */
const CHECKERED_PNG =
  'iVBORw0KGgoAAAANSUhEUgAAAAgAAAAICAMAAADz0U65AAAABlBMVEUUFBT/ANxGxqLaAAAACXBIWXMAAAPoAAAD6AG1e1JrAAAAFklEQVQI12NgYGBkhGAYA53PwECEGgAEyAAhrJADlwAAAABJRU5ErkJggg==';
const CHECKERED_PX = 8;

const WRAP: Readonly<Record<number, 'repeat' | 'clamp' | 'mirror'>> = {
  10497: 'repeat',
  33071: 'clamp',
  33648: 'mirror',
};

export class Textures {
  readonly list: SceneTexture[] = [];
  private readonly known = new Map<Texture, number | undefined>();
  private standIn: string | undefined;
  constructor(
    private readonly gathered: Gathered,
    private readonly check: CheckImage | undefined,
  ) {}

  /** How a material wears a texture; undefined where there is none that can be shown. */
  ref(t: Texture | null | undefined, info: TextureInfo | null | undefined): TextureRef | undefined {
    if (!t) return undefined;
    if (!this.known.has(t)) this.known.set(t, this.read(t));
    const texture = this.known.get(t);
    if (texture === undefined) return undefined;
    const transform = info?.getExtension<Transform>('KHR_texture_transform');
    const [ox, oy] = transform?.getOffset() ?? [0, 0];
    const [sx, sy] = transform?.getScale() ?? [1, 1];
    const a = transform?.getRotation() ?? 0;
    const set = transform?.getTexCoord() ?? info?.getTexCoord() ?? 0;
    if (set > 1)
      this.gathered.fault(
        'approximated',
        t.getName() || t.getURI(),
        `Texture coordinate set ${set} is not read; the first is used.`,
      );
    // KHR_texture_transform: translation · rotation · scale, the rotation counter-clockwise in UV space
    const c = Math.cos(a);
    const s = Math.sin(a);
    return {
      texture,
      uvSet: set === 1 ? 1 : 0,
      wrapS: WRAP[info?.getWrapS() ?? 10497] ?? 'repeat',
      wrapT: WRAP[info?.getWrapT() ?? 10497] ?? 'repeat',
      matrix: [c * sx, s * sy, ox, -s * sx, c * sy, oy],
    };
  }

  private read(t: Texture): number | undefined {
    const name = t.getName() || t.getURI() || 'texture';
    if (t.getMimeType() === 'image/ktx2') {
      this.gathered.fault(
        'unread-texture',
        name,
        `Texture “${name}” is KTX2 (Basis), which is not read; the surface is as if it had none. Export it as PNG, JPEG or WebP.`,
      );
      return undefined;
    }
    const image = t.getImage();
    const size = t.getSize();
    if (!image || !size) {
      this.gathered.fault('missing-texture', name, `Texture “${name}” has no readable image and is left out.`);
      return undefined;
    }
    if (size[0] * size[1] > 16384 * 16384) {
      this.gathered.fault(
        'unread-texture',
        name,
        `Texture “${name}” has ${size[0]} × ${size[1]} pixels, more than 16384 × 16384, and is left out.`,
      );
      return undefined;
    }
    const blob = this.gathered.keep(image);
    const at =
      this.list.push({
        name,
        blob,
        mediaType: t.getMimeType(),
        width: size[0],
        height: size[1],
        ...(isPng16(image) && { bits: 16 as const }),
      }) - 1;
    if (this.check) this.gathered.wait(this.replaceDamaged(at, name, image, size, this.check));
    return at;
  }

  /** An image that cannot be decoded is marked where it is worn, and named in the report. */
  private async replaceDamaged(
    at: number,
    name: string,
    image: Uint8Array,
    [width, height]: readonly [number, number],
    check: CheckImage,
  ): Promise<void> {
    const damage = await check(image, width, height);
    if (damage === null) return;
    this.gathered.fault(
      'damaged-texture',
      name,
      `Texture “${name}” is damaged (${damage}); a checkered stand-in marks where it is. Export it again.`,
    );
    this.standIn ??= this.gathered.keep(Uint8Array.from(atob(CHECKERED_PNG), (c) => c.charCodeAt(0)));
    const mediaType = 'image/png';
    this.list[at] = { name, blob: this.standIn, mediaType, width: CHECKERED_PX, height: CHECKERED_PX };
  }
}

/** A PNG says its bits a channel in the 25th byte (PNG specification, IHDR). */
const isPng16 = (b: Uint8Array): boolean => b[0] === 0x89 && b[1] === 0x50 && b[24] === 16;
