// Values that a file gives and that are no numbers, as a text where a number should be: nothing can be rendered with
// them, and each is said by where it stands.
import { ImportError, type SceneDocument } from '../scene/index.ts';

const WORDS = {
  nodes: 'object',
  materials: 'material',
  lights: 'light',
  cameras: 'camera',
  textures: 'texture',
} as const;

/** @throws ImportError */
export function checkNumbers(fileName: string, document: SceneDocument): void {
  for (const [list, word] of Object.entries(WORDS))
    (document[list as keyof typeof WORDS] as readonly { readonly name?: string }[]).forEach((x, i) => {
      const at = notSound(x, '');
      if (at === undefined) return;
      const name = x.name ?? nodeNameOf(document, list, i) ?? `${i + 1}`;
      throw new ImportError(
        'UNREADABLE',
        `“${at}” of the ${word} “${name}” in “${fileName}” is not a number. Export it again.`,
      );
    });
}

/** The key of the first number that is none; null is a value of its own. */
function notSound(value: unknown, key: string): string | undefined {
  if (typeof value === 'number') return Number.isFinite(value) ? undefined : key;
  if (typeof value !== 'object' || value === null) return undefined;
  const isList = Array.isArray(value);
  for (const [k, v] of Object.entries(value)) {
    // what should be numbers and is not is in lists of numbers, as a colour
    const isOther = isList && key !== 'parts' && typeof v !== 'number';
    const found = isOther ? key : notSound(v, isList ? key : k);
    if (found !== undefined) return found;
  }
  return undefined;
}
function nodeNameOf(document: SceneDocument, list: string, i: number): string | undefined {
  if (list === 'lights') return document.nodes.find((n) => n.light === i)?.name;
  if (list === 'cameras') return document.nodes.find((n) => n.camera === i)?.name;
  return undefined;
}
