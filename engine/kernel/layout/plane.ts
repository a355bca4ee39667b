// Planes of the film, each with sums over samples: a table of u32 addresses in the job, 0 where a plane is not wanted
export const MOMENT = 0; // sums of squares, 3
export const DEPTH = 1; // m along the viewing direction, 1
export const POSITION = 2; // m, 3
export const NORMAL = 3; // 3
export const GEOMETRIC = 4; // 3
export const ALBEDO = 5; // 3
export const EMISSION = 6; // what the camera sees glow, the environment included, 3
export const DIRECT = 7; // light scattered once, 3
export const INDIRECT = 8; // light scattered more often, 3
export const OBJECTS = 9; // CRYPTO_RANKS pairs of id and weight
export const MATERIALS = 10;
export const GUIDE_ALBEDO = 11; // as albedo and normal, but through smooth glass and in mirrors, for the denoiser, 3
export const GUIDE_NORMAL = 12; // 3
export const GROUPS = 13; // 3 a pixel for each light group, one group after another
export const MOTION = 14; // pixels to the right and down until the next frame, 2
export const LEFT_OUT = 15; // what passed through what is left out, see leftOut.ts, 4
// Of light that is kept apart, 3 a pixel for each part, one part after another (JOB.PARTS)
export const PARTS = 16;
export const PARTS_HALF = 17; // of samples of even number alone: by both halves it is known how noisy a mix is
export const PARTS_EMISSION = 18; // as EMISSION and DIRECT
export const PARTS_DIRECT = 19;
export const GROUPS_EMISSION = 20; // as EMISSION, of each light group
// Of shadow catchers (catcher.ts): what of the light of the place reaches them, what would if no things were there, and
// the light that things send there, 3 a pixel each, one after another
export const CAUGHT = 21;
export const BEHIND = 22; // what the camera would see there without the catcher, and how much of the pixel it covers, 4
export const CRYPTO_RANKS = 6;
