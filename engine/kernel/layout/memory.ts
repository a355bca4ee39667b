// The module's own constants (tables of the math functions) lie below this; every thread checks on start that they do.
// Written over, exp() and sin() silently give nonsense: the furnace test of glass once caught it.
export const FIRST_ADDRESS = 65536;
