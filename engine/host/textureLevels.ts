// Levels of stored textures: the finer ones, each by itself.
import * as K from '../kernel/layout/index.ts';
import { checkTexels } from './check.ts';
import type { Loadable } from './loadable.ts';
import { levelBytes } from './memoryPlan.ts';
import type { TexturePlace } from './memoryPlaces.ts';
import { type EngineTexture, type StoredTexture, bitsOf } from './scene.ts';
import type { HeldViews } from './views.ts';

/** The levels that are not always in memory, all of them out. */
export function textureLevels(
  views: HeldViews,
  texture: EngineTexture,
  stored: StoredTexture,
  place: TexturePlace,
): TextureLevel[] {
  return place.levels.slice(0, place.resident).map((_, i) => new TextureLevel(views, texture, stored, place, i));
}

export class TextureLevel implements Loadable {
  readonly kind = 'texture';
  readonly bytes: number;
  readonly wantedWord: number;
  readonly usedWord: number;
  private readonly record: number;

  constructor(
    private readonly views: HeldViews,
    private readonly texture: EngineTexture,
    private readonly stored: StoredTexture,
    private readonly place: TexturePlace,
    /** Of those that are kept. */
    private readonly level: number,
  ) {
    this.bytes = levelBytes(place.levels[level]!, bitsOf(texture));
    this.record = place.table + level * K.LEVEL.BYTES;
    this.wantedWord = (this.record + K.LEVEL.WANTED) >>> 2;
    this.usedWord = (this.record + K.LEVEL.USED) >>> 2;
  }

  /** Its number among all levels of the whole texture. */
  get ofWhole(): number {
    return this.place.leftOut + this.level;
  }
  async read(): Promise<Uint8Array> {
    const texels = await this.stored.level(this.ofWhole);
    checkTexels({ ...this.texture, ...this.place.levels[this.level]! }, texels);
    return new Uint8Array(texels.buffer, texels.byteOffset, texels.byteLength);
  }
  put(bytes: Uint8Array, at: number): void {
    this.views.u8.set(bytes, at);
    Atomics.store(this.views.u32, (this.record + K.LEVEL.AT) >>> 2, at);
  }
  takeOut(): void {
    this.views.u32[(this.record + K.LEVEL.AT) >>> 2] = 0;
  }
}
