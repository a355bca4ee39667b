export const CAMERA = 1;
export const SPECULAR = 2;
export const SHADOW = 4;
export const DIFFUSE = 8;
export const ALL = 15;
export const CATCHER = 32; // of an instance: it is a shadow catcher; of a ray: it meets these alone
export const PANE = 16; // what stands between a point and a light and lets it through straight on: instead of SHADOW
