// Stub (32 B, 32-aligned): stands in a node where what is below is not loaded, or is left out for good.
export const BYTES = 32;
export const WANTED = 0; // u32, set by rays that reach it
export const BRIGHTNESS = 0; // if it is left out instead, f32: how bright it may be, nits; negative: only likely
export const LEFT_OUT = 4; // u32: where nothing will ever be loaded, its number among all that is left out, from 1 on
export const BOX = 8; // of that, f32: least x y z, most x y z
