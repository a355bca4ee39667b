// BVH node (128 B, 64-aligned), four children as structure of arrays:
//   0 minX×4 | 16 minY×4 | 32 minZ×4 | 48 maxX×4 | 64 maxY×4 | 80 maxZ×4 | 96 ref×4 | 112 unused
export const BYTES = 128;
export const REF = 96;
