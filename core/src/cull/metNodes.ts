// Which of a scene's nodes a picture's rays may have met, or which of a mesh's pieces: a bit each, as base64 of bytes,
// the lowest bit first. What is not among them no ray of the picture came near.

/** @param met numbers of nodes @param count of all of them */
export function packMet(met: Iterable<number>, count: number): string {
  const bytes = new Uint8Array(Math.ceil(count / 8));
  for (const node of met) bytes[node >> 3]! |= 1 << (node & 7);
  return encoded(bytes);
}
/** @returns whether a node was met; every one, where what is given is of another scene */
export function unpackMet(packed: string, count: number): (node: number) => boolean {
  const bytes = decoded(packed);
  if (bytes.length !== Math.ceil(count / 8)) return () => true;
  return (node) => (bytes[node >> 3]! & (1 << (node & 7))) !== 0;
}
/** How many of them were met. */
export function countMet(packed: string, count: number): number {
  const isMet = unpackMet(packed, count);
  let met = 0;
  for (let number = 0; number < count; number++) if (isMet(number)) met++;
  return met;
}
/** Of parts of a picture; undefined where it is not known of one, or they are of different scenes. */
export function joinedMet(a: string | undefined, b: string | undefined): string | undefined {
  if (a === undefined || b === undefined) return undefined;
  const [x, y] = [decoded(a), decoded(b)];
  return x.length === y.length ? encoded(x.map((byte, i) => byte | y[i]!)) : undefined;
}

const decoded = (packed: string): Uint8Array => Uint8Array.from(atob(packed), (c) => c.charCodeAt(0));
const AT_ONCE = 8192;
function encoded(bytes: Uint8Array): string {
  let text = '';
  for (let i = 0; i < bytes.length; i += AT_ONCE) text += String.fromCharCode(...bytes.subarray(i, i + AT_ONCE));
  return btoa(text);
}
