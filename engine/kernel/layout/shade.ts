// Shadow candidate (32 B): contribution rgb, path index | light group, light's instance (NONE: none), scatterings, how
// wide its ray is (blockers.ts); two a path and bounce at most
export const BYTES = 32;
export const PATH = 12;
export const GROUP = 16;
export const LIGHT = 20;
export const SCATTERINGS = 24; // of the light when it arrives at the camera, and OF_PLACE
export const WIDTH = 28;
export const OF_PLACE = 0x80000000; // light of the place on a shadow catcher
