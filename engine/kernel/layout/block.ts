// Triangle block (160 B, 32-aligned), four triangles as structure of arrays:
//   0 v0x v0y v0z | 48 e1x e1y e1z | 96 e2x e2y e2z (each ×4) | 144 primitive index ×4
export const BYTES = 160;
export const PRIM = 144;
export const MOST_IN_LEAF = 2;
