// Stub (32 B, 32-aligned): stands in a node where what is below is not loaded, or is left out for good.
export const BYTES = 32;
export const WANTED = 0; // u32, set by rays that reach it
export const LEFT_OUT = 4; // u32: not 0 where nothing will ever be loaded
export const BOX = 8; // of that, f32: least x y z, most x y z
