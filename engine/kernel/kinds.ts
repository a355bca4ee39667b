// How a path was scattered: what scatter() leaves, and what a path remembers of its last vertex.
export const NONE: i32 = 0;
export const DIFFUSE: i32 = 1;
export const SPECULAR: i32 = 2;
export const TRANSMITTED: i32 = 3;
export const STRAIGHT: i32 = 4; // straight: through a pane, as if it had not been scattered
