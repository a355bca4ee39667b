// What a hand does in one go, as dragging a number: everything that it changes on the way is one edit.
import { createContext, useContext } from 'react';

export interface Gesture {
  /** The hand has let go. */
  end(): void;
  /** It is as if nothing had been done. */
  cancel(): void;
}
/** Where nobody gathers changes, each is an edit of its own. */
const ALONE: Gesture = { end: () => undefined, cancel: () => undefined };
export const GestureContext = createContext<() => Gesture>(() => ALONE);
export const useGesture = (): (() => Gesture) => useContext(GestureContext);
