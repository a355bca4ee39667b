export const FINISHED = 0x40000000;
export const WIDTH = 64;
export const HEIGHT = 32;
export const WAVE_PATHS = 1024;
