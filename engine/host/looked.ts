// Small things that reading a look takes.
import type { Value } from '@variscen/core/looks';
import type { Rgb } from '@variscen/core/scene';
import type { Vec3 } from './scene.ts';

export const num = (v: Value | undefined): number => (typeof v === 'number' ? v : 0);
export const rgb = (v: Value | undefined): Rgb => (Array.isArray(v) ? (v as unknown as Rgb) : [1, 1, 1]);
export const scaled = (c: Rgb, s: number): Vec3 => [c[0] * s, c[1] * s, c[2] * s];

/** Gives each thing the next place when it is first asked for, after the first ones. Things with one key are one. */
export class Places<T, K = T> {
  readonly list: T[] = [];
  private readonly places = new Map<K, number>();
  constructor(
    private readonly key: (x: T) => K = (x) => x as unknown as K,
    first: readonly T[] = [],
  ) {
    for (const x of first) this.of(x);
  }
  of(x: T): number {
    const key = this.key(x);
    let at = this.places.get(key);
    if (at === undefined) this.places.set(key, (at = this.list.push(x) - 1));
    return at;
  }
}

/** Works out of each name once. */
export function once<T>(of: (name: string) => T): (name: string) => T {
  const known = new Map<string, T>();
  return (name) => {
    if (!known.has(name)) known.set(name, of(name));
    return known.get(name) as T;
  };
}
