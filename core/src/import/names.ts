// Names of a scene file as things are told apart by them: whatever the file says, each can be stored, typed and edited.

/** Of a path, so that a target with it is no longer than the API takes. */
const MOST_PATH = 1900;
const MOST_NAME = 200;

/** Without what no database stores: zeros and halves of surrogate pairs. */
export const cleanText = (text: string): string => text.toWellFormed().replaceAll('\0', '\uFFFD');

/** What tells a thing apart may not look like a copy of another: “Chair#2” is what a look's second chair is called. */
const withoutCopyMark = (name: string): string => name.replace(/#(\d+)(?=\/|$)/g, ' (#$1)');

/** Nor like a light that a look adds: “+spot/Key”. */
const withoutAddedMark = (name: string): string => name.replace(/^\+/, '＋');

/** Of a node under its parent. */
export function pathUnder(parent: string | undefined, name: string): string {
  const own = parent === undefined ? withoutAddedMark(withoutCopyMark(name)) : withoutCopyMark(name);
  const path = parent === undefined ? own : `${parent}/${own}`;
  if (path.length <= MOST_PATH) return path;
  // what is too long keeps its end, which tells it apart best
  return `…${path.slice(path.length - MOST_PATH + 1).toWellFormed()}`;
}
/** Of a material. */
export const materialName = (name: string): string => withoutCopyMark(name).slice(0, MOST_NAME).toWellFormed();
