export const FINISHED = 0x40000000;
export const WIDTH = 64;
export const HEIGHT = 32;
// Whether a tile is quiet is asked at these sample numbers, whatever passes or goes there are: multiples, from the
// first
export const JUDGED_EVERY = 8;
export const JUDGED_FROM = 16;
/** Paths that go through the stages together, where all that they meet is in memory. */
export const WAVE_PATHS = 1024;
