// How this engine draws, as a number: raised with every change after which any picture is another, to the bit, than
// before. Pictures of another number are out of date, and films of two are never put together.
//
// engine/test/drawing.test.ts renders a few pictures and fails where they are others than at this number.
export const DRAWING = 8;
