// Ray (48 B)
export const BYTES = 48;
export const TMIN = 12;
export const DIR = 16;
export const TMAX = 28;
export const MASK = 32;
export const PATH = 36;
export const SEED = 40; // u32: by it the alpha of what the ray meets is decided
// u32: bit 0, it reached what is not loaded; above it the stub of what is left out that it passed, of several the
// brightest. Of a shadow ray that was stopped instead the number of the triangle that stopped it
export const MARKED = 44;
export const WAITS = 1;
export const PASSED = 0xffffffe0;
// Rays in flight: a slot of ray state and its stack. The stride is not a power of two, so that slots spread over cache
// sets.
export const SLOT_BYTES = 2752;
export const IN_FLIGHT = 20;
