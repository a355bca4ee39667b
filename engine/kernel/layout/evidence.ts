// Evidence of an instance (128 B), summed over samples: throughput that met it, by kind of event, in units of 1/UNIT,
// u64; light in nits, f64; how often each kind was, u64.
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
export const BYTES = 128;
export const UNIT = 1024;
