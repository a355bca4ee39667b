// Triangles without order, for tests of trees.
/** Numbers in [0, 1) that are the same for the same seed. */
export const numbers = (seed: number) => () => (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 2 ** 32;

/** Triangles (nine coordinates each) in a cube of ten, up to `size` long on each axis. */
export function soup(triangles: number, size: number, random: () => number): number[] {
  const out: number[] = [];
  for (let t = 0; t < triangles; t++) {
    const c = [random() * 10, random() * 10, random() * 10];
    for (let i = 0; i < 9; i++) out.push(c[i % 3]! + random() * size);
  }
  return out;
}
