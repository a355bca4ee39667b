// Gives the memory of a trace that is done back at once. Left to itself, the runtime keeps an engine's memory for a
// while after nobody holds it, and the next trace's comes on top.
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';

setFlagsFromString('--expose-gc');
export const letGo = runInNewContext('gc') as () => void;
