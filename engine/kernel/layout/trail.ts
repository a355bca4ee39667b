// Trail of a path (96 B): the first surfaces that it met, each with the light that it had brought before; where there
// is evidence only. Behind a thread's evidence.
export const BYTES = 96;
export const STEPS = 8;
export const STEP_BYTES = 12; // u32 number of the instance, f32 luminance, u32 number of the piece, from 1 on
