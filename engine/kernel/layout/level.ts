// Level of a texture (16 B), the finest first
export const BYTES = 16;
export const AT = 0; // u32 address of RGBA texels, row by row; 0: it is not loaded
export const WANTED = 4; // u32, set by what looks at it while it is not loaded
export const USED = 8; // u32: how often about it was looked at, in units of USED_EVERY
export const USED_EVERY = 8;
