// Scene documents in memory, parsed once: the last few that were asked for.
import { SceneIndex } from '@variscen/core/looks';
import type { SceneDocument } from '@variscen/core/scene';
import type { AssetStore } from '../files/store.ts';

const KEPT = 4;

export class Scenes {
  private readonly cache = new Map<string, Promise<SceneIndex>>();
  constructor(private readonly assets: AssetStore) {}
  get(hash: string): Promise<SceneIndex> {
    const known = this.cache.get(hash);
    if (known) { this.cache.delete(hash); this.cache.set(hash, known); return known; }
    const loading = this.assets.get(hash).then((b) => new SceneIndex(JSON.parse(new TextDecoder().decode(b)) as SceneDocument));
    this.cache.set(hash, loading);
    loading.catch(() => this.cache.delete(hash));
    while (this.cache.size > KEPT) this.cache.delete(this.cache.keys().next().value!);
    return loading;
  }
}
