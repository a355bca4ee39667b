/**
 * The depths that a picture holds, metres: a range in which a depth picture shows something where none is set.
 * @param depths of pixels, metres; those at the far plane or beyond are nothing
 */
export function fittedRange(depths: ArrayLike<number>, farM: number): readonly [number, number] {
  let near = Infinity;
  let far = -Infinity;
  for (let i = 0; i < depths.length; i++) {
    const depth = depths[i]!;
    if (!(depth < farM * 0.999)) continue;
    near = Math.min(near, depth);
    far = Math.max(far, depth);
  }
  return near < far ? [near, far] : [0, farM];
}
