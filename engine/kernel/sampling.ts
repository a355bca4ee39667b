// Random numbers: a two-dimensional Sobol sequence, its order and its digits Owen-scrambled by a hash for every pair of
// dimensions.
// Source: Burley, "Practical Hash-based Owen Scrambling", JCGT 9(4), 2020; hash constants by Vegdahl.
// A number depends on pixel seed, sample number and dimension alone: never on threads, tiles or other paths.
/** Off only in a build that the benchmark of equal times makes: plain hashed numbers instead of the sequence. */
const LOW_DISCREPANCY: bool = true;

// @ts-ignore
@inline function reverse(x: u32): u32 {
  x = ((x >> 1) & 0x55555555) | ((x & 0x55555555) << 1);
  x = ((x >> 2) & 0x33333333) | ((x & 0x33333333) << 2);
  x = ((x >> 4) & 0x0f0f0f0f) | ((x & 0x0f0f0f0f) << 4);
  return bswap<u32>(x);
}
/** Scrambles a digit-reversed number: every digit is flipped depending on the digits before it. */
// @ts-ignore
@inline function scrambleReversed(x: u32, seed: u32): u32 {
  x ^= x * 0x3d20adea;
  x += seed;
  x *= (seed >> 16) | 1;
  x ^= x * 0x05526c56;
  x ^= x * 0x53a22864;
  return x;
}
// @ts-ignore
@inline export function hash(a: u32, b: u32): u32 {
  let x = a ^ (b * 0x9e3779b9 + 0x85ebca6b);
  x ^= x >> 16;
  x *= 0x21f0aaad;
  x ^= x >> 15;
  x *= 0xd35a2d97;
  x ^= x >> 15;
  return x;
}
// @ts-ignore
@inline export function unit(x: u32): f32 {
  return <f32>(x >> 8) * <f32>(1.0 / 16777216.0);
}

/**
 * Sobol point of a pixel's sample in a pair of dimensions: lanes 0 and 1 in [0, 1), lane 2 a third, independent number.
 */
export function random3(seed: u32, sample: u32, pair: u32): v128 {
  const h = hash(seed, pair);
  if (!LOW_DISCREPANCY)
    return f32x4.replace_lane(
      f32x4.replace_lane(
        f32x4.replace_lane(f32x4.splat(0), 0, unit(hash(h ^ 0x3c6ef372, sample))),
        1,
        unit(hash(h ^ 0xa54ff53a, sample)),
      ),
      2,
      unit(hash(h ^ 0x68bc21eb, sample)),
    );
  const i = reverse(scrambleReversed(reverse(sample), h));
  // second dimension: Pascal's triangle mod 2 is the five-fold Kronecker power of [1 1; 0 1], so five masked shifts
  // apply it
  let p = i;
  p ^= (p & 0xaaaaaaaa) >> 1;
  p ^= (p & 0xcccccccc) >> 2;
  p ^= (p & 0xf0f0f0f0) >> 4;
  p ^= (p & 0xff00ff00) >> 8;
  p ^= (p & 0xffff0000) >> 16;
  const x = reverse(scrambleReversed(i, hash(h, 1)));
  const y = reverse(scrambleReversed(p, hash(h, 2)));
  return f32x4.replace_lane(
    f32x4.replace_lane(f32x4.replace_lane(f32x4.splat(0), 0, unit(x)), 1, unit(y)),
    2,
    unit(hash(h ^ 0x68bc21eb, sample)),
  );
}
