// Geometry of a mesh primitive (32 B): addresses, 0 where the mesh has no such attribute. A mesh that is loaded in
// pieces has one for each, one after another.
export const BYTES = 32;
export const NORMALS = 0; // f32 × 3 a vertex
export const UV0 = 4; // f32 × 2 a vertex
export const UV1 = 8;
export const COLORS = 12; // f32 × 4 a vertex, linear
export const INDICES = 16; // u32 × 3 a triangle
export const PIECE = 20; // u32: of a piece, its number among all of the job, from 1 on
export const USED = 24; // u32: how often about what is loaded was met, in units of USED_EVERY
export const USED_EVERY = 8;
export const AT = 28; // of a piece: where it is in memory; 0: it is not
// Number of a triangle in such a mesh: the highest bit, then the piece, then which one of the piece it is
export const PIECE_SHIFT = 10;
export const PIECE_MASK = 0x1fffff;
export const LOCAL_MASK = 1023;
