// Instance (128 B, 64-aligned): world→object as four columns whose fourth lanes carry integers, then object→world.
export const BYTES = 128;
export const ROOT = 12; // u32 reference of the mesh's root
export const INDEX = 28; // u32 place in the instance list, which is scene order
export const MASK = 44; // u32 MASK_* bits of the rays that may meet it, PIERCED and REACHED
export const IDENTITY = 60; // u32 the same whatever else is in the scene; as a float neither denormal nor infinite
export const PANEL = 128; // with the mask: it is an area light, not a thing that glows
export const PIERCED = 256; // its material's alpha lets some rays pass
export const REACHED = 512; // a ray has entered the box of its mesh
export const FORWARD = 64; // 12 × f32, columns x y z t
export const MATERIAL = 112; // u32 address
export const GEOMETRY = 116; // u32 address
export const LIGHT = 120; // i32 light index, −1 for none
export const OBJECT = 124; // f32: Cryptomatte id of its object
