// What a light sample leaves at the address it is given: direction, then these.
export const DISTANCE: usize = 12;
export const RADIANCE: usize = 16;
export const PDF: usize = 28;
export const GROUP: usize = 32;
export const INSTANCE: usize = 36;
/** Under what angle the light is seen, radians; 0: it has no extent. */
export const ANGLE: usize = 44;
export const REACH: usize = 40;
