// Evidence of an instance (216 B), summed over samples: throughput that met it, by kind of event, in units of 1/UNIT,
// u64; light in nits, f64; how often each kind was, u64; how wide rays were, u32.
export const SEEN = 0;
export const REFLECTED = 1;
export const REFRACTED = 2;
export const BOUNCED = 3;
/** Light that it kept from what it was going to. */
export const SHADOWED = 4;
/** Light that it gave as a lamp. */
export const LIT = 5;
export const KINDS = 6;
/** Light that came from it, its own or another's, to the picture. */
export const BROUGHT = 48; // f64
export const COUNTS = 56;
/**
 * How often rays from elsewhere than the camera that met it, or whose light it stopped, were so wide where they did:
 * one count for each power of two, from 2^NARROWEST m on.
 */
export const WIDTHS = 104;
export const WIDTH_COUNTS = 24;
export const NARROWEST = -16;
/**
 * By way of which instance most of what met it in reflections came, and through glass: number + 1, u32, and by how much,
 * f32 (majority vote, weighted, as in leftOut.ts).
 */
export const BY_MIRROR = 200;
export const BY_GLASS = 208;
export const BYTES = 216;
export const UNIT = 1024;
