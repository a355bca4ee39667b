// Colours, places and transforms as plain numbers.
export type Rgb = readonly [number, number, number];
export type Matrix = readonly number[];
