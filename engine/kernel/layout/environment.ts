// Environment input (64 B): lit surfaces see one; what the camera, reflections and refractions see may differ from it
export const BYTES = 64;
export const DATA = 0; // u32 address of f32 × 4 texels, 0 for none
export const WIDTH = 4;
export const HEIGHT = 8;
export const TURN_COS = 12;
export const SCALE = 16; // rgb
export const TURN_SIN = 28;
export const MARGINAL = 32; // f32 × height, cumulative; tables of the lighting input only
export const CONDITIONAL = 36; // f32 × width × height, cumulative by row
export const PDF = 40; // f32 × width × height, per steradian before the sine is divided out
export const LIGHTING = 0;
export const CAMERA = 1;
export const REFLECTION = 2;
export const REFRACTION = 3;
