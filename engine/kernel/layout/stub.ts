// Stub (32 B, 32-aligned): stands in a node where what is below is not loaded.
export const BYTES = 32;
export const WANTED = 0; // u32, set by rays that reach it
