// Images that were brought in for a look. A value says all that is needed to plan with one: its content, size, kind and
// name.
import type { SceneTexture } from '../scene/index.ts';

/** “image:HASH:512x512:image/png:bark.png” */
export const imageValue = (t: Pick<SceneTexture, 'blob' | 'width' | 'height' | 'mediaType' | 'name'>): string =>
  `image:${t.blob}:${t.width}x${t.height}:${t.mediaType}:${t.name}`;
export function parseImage(value: unknown): SceneTexture | undefined {
  const m =
    typeof value === 'string' ? /^image:([0-9a-f]{64}):(\d{1,5})x(\d{1,5}):(image\/[a-z]+):(.*)$/s.exec(value) : null;
  return m ? { blob: m[1]!, width: Number(m[2]), height: Number(m[3]), mediaType: m[4]!, name: m[5]! } : undefined;
}
