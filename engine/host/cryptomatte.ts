// Ids of the open Cryptomatte specification 1.2: MurmurHash3 (32 bit, seed 0) of the UTF-8 name, made into a float that
// is neither denormal nor infinite.
export function murmurHash3(bytes: Uint8Array): number {
  const c1 = 0xcc9e2d51;
  const c2 = 0x1b873593;
  const tail = bytes.length & ~3;
  const stir = (k: number) => {
    k = Math.imul(k, c1);
    k = (k << 15) | (k >>> 17);
    return Math.imul(k, c2);
  };
  let h = 0;
  for (let i = 0; i < tail; i += 4) {
    h ^= stir(bytes[i]! | (bytes[i + 1]! << 8) | (bytes[i + 2]! << 16) | (bytes[i + 3]! << 24));
    h = (h << 13) | (h >>> 19);
    h = (Math.imul(h, 5) + 0xe6546b64) | 0;
  }
  let k = 0;
  for (let i = bytes.length - 1; i >= tail; i--) k = (k << 8) | bytes[i]!;
  if (bytes.length & 3) h ^= stir(k);
  h ^= bytes.length;
  h ^= h >>> 16;
  h = Math.imul(h, 0x85ebca6b);
  h ^= h >>> 13;
  h = Math.imul(h, 0xc2b2ae35);
  h ^= h >>> 16;
  return h >>> 0;
}
/** Of names that were asked for lately: a scene's are asked for with every picture of it. */
const KNOWN = new Map<string, number>();
const MOST_KNOWN = 100_000;
const ENCODER = new TextEncoder();
export function hashOfName(name: string): number {
  let hash = KNOWN.get(name);
  if (hash === undefined) {
    hash = murmurHash3(ENCODER.encode(name));
    if (KNOWN.size >= MOST_KNOWN) KNOWN.clear();
    KNOWN.set(name, hash);
  }
  return hash;
}
/** Bits of the float id of a name. */
export function cryptomatteId(name: string): number {
  const h = hashOfName(name);
  const exponent = (h >>> 23) & 255;
  return exponent === 0 || exponent === 255 ? (h ^ (1 << 23)) >>> 0 : h;
}
export const hex = (id: number): string => id.toString(16).padStart(8, '0');
