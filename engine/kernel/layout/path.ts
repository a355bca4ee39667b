// Path (128 B): throughput, pdf of the last direction (0: cannot be sampled by light picking) | radiance, seed |
//   normal at the last vertex (0: none), pixel | sample, bounce, flags, covered | guide's throughput, ray width | ray
// spread |
//   where it was scattered last, panes left out, and metres from there to the ray's origin | the solids that it is in
export const BYTES = 128;
export const PDF = 12;
export const RADIANCE = 16;
export const SEED = 28;
export const NORMAL = 32;
export const PIXEL = 44;
export const SAMPLE = 48;
export const BOUNCE = 52;
export const FLAGS = 56;
export const COVERED = 60;
export const GUIDE = 64;
export const WIDTH = 76; // m across the ray at its origin
export const SPREAD = 80; // and how it grows a metre
export const PASSED = 84; // u32: stub of what is left out that it passed first; 0: none
export const STEPS = 88; // u32: how many steps of its trail are written (trail.ts)
// how likely the light samples at the last vertex were of the sky, and of lights
export const OF_SKY = 92;
export const FROM = 96;
export const TRAVELLED = 108;
export const SOLIDS = 112; // u32 addresses of materials of the solids that it is in, last entered first; 0: none
export const SOLIDS_KNOWN = 3;
export const OF_LIGHTS = 124; // see OF_SKY
export const KIND = 7; // flags: how the path was scattered last
export const GUIDED = 8; // the denoiser's guides are written
export const MEETS = 16; // may meet the discs of suns and the balls of lamps
export const CAUGHT = 32; // a shadow catcher is what the camera sees first
export const OF_PLACE = 64; // and the path has been scattered at nothing else since
export const FREED = 128; // and what it may find of the place's light is counted as free already
export const PANES = 8; // shift: from this bit on, how many panes it went straight through
