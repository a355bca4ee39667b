// Where the energy tables lie, and how finely they are divided.

// Tables at JOB.TABLES (f32 each): isotropic A, B | means A, B | sheen | its means | coat over GGX, sheen over GGX |
// means of both over what GGX loses | stretched A, B | their means
export const ISO: i32 = 32;
export const ISO_ROW: usize = 32 * 8;
export const T_MEAN: usize = 32 * 32 * 8;
export const T_SHEEN: usize = T_MEAN + 32 * 8;
export const T_SHEEN_MEAN: usize = T_SHEEN + 32 * 32 * 4;
export const T_LAYER: usize = T_SHEEN_MEAN + 32 * 4;
/**
 * Kinds of layers, and the steps of a layer's table: strength without 0, the layer's roughness, that of the lobe below,
 * root of cos θ.
 */
export const OVER_COAT: i32 = 0;
export const OVER_SHEEN: i32 = 1;
export const L_STRENGTH: i32 = 3;
export const L_LAYER: i32 = 12;
export const L_BELOW: i32 = 10;
export const L_COS: i32 = 24;
export const LAYER_ROW: usize = <usize>L_COS * 4;
export const LAYER_TABLE: usize = <usize>(L_STRENGTH * L_LAYER * L_BELOW) * LAYER_ROW;
export const T_LAYER_LOST: usize = T_LAYER + 2 * LAYER_TABLE;
export const T_STRETCHED: usize = T_LAYER_LOST + <usize>(2 * L_LAYER * L_BELOW) * 4;
export const COAT_F0: f32 = 0.04;
export const S_COS: i32 = 16;
export const S_PHI: i32 = 8;
export const S_ROUGH: i32 = 16;
export const S_STRENGTH: i32 = 8;
export const T_STRETCHED_MEAN: usize = T_STRETCHED + 16 * 8 * 16 * 8 * 8;
export const G_COS: i32 = 48;
export const G_ROUGH: i32 = 24;
