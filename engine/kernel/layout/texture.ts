// Use of a texture (64 B): its levels and how texture coordinates reach them
export const BYTES = 64;
// u32 address of its levels that are kept, see level.ts; each is half as large as the one before, rounded down, at
// least 1
export const TABLE = 0;
export const WIDTH = 4; // of the finest level kept
export const HEIGHT = 8;
export const FLAGS = 12;
export const UV = 16; // 2 × 3 matrix: u' = m0 u + m1 v + m2, v' = m3 u + m4 v + m5
export const TEXELS = 40; // f32: width × height of the whole texture × |determinant of the matrix|
export const LEVELS = 44; // mip levels kept
export const LEFT_OUT = 48; // finer levels that are not kept
export const SRGB = 1;
export const UV1 = 2;
export const WRAP_S = 4; // shift of two bits: 0 repeat, 1 clamp, 2 mirror
export const WRAP_T = 6;
export const WIDE = 256; // four u16 a texel instead of four u8
export const WRAP_REPEAT = 0;
export const WRAP_CLAMP = 1;
export const WRAP_MIRROR = 2;
