// Hit (32 B): t u v | primitive | instance (0xffffffff: none) | block address + lane
export const BYTES = 32;
export const U = 4;
export const V = 8;
export const PRIM = 12;
export const INST = 16;
export const BLOCK = 20;
export const PASSED_AT = 28; // f32: where the ray entered what it says that it passed
export const AT = 24; // where the piece was in memory that was met, while the stage waits for others
