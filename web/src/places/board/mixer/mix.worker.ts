// Mixes a picture's light groups and shows it by its grade, apart from the page's thread.
import { type LightPicture, lensed, mixedLight, toDisplay, unpackLightPicture } from '@variscen/core/image';
import type { FromMixer, ToMixer } from './mixMessages.ts';

type Shown = Extract<ToMixer, { kind: 'picture' }>;
let picture: LightPicture | undefined;
let shown: Pick<Shown, 'grade' | 'lut'> | undefined;

self.onmessage = ({ data }: MessageEvent<ToMixer>) => {
  if (data.kind === 'picture') {
    picture = unpackLightPicture(data.bytes);
    shown = data;
    return;
  }
  if (!picture || !shown) return;
  const light = lensed(mixedLight(picture, data.shares), picture, shown.grade);
  const rgb = toDisplay(light, shown.grade, shown.lut);
  const pixels = new Uint8ClampedArray((rgb.length / 3) * 4);
  for (let i = 0, q = 0; i < rgb.length; i += 3, q += 4) {
    pixels[q] = rgb[i]!;
    pixels[q + 1] = rgb[i + 1]!;
    pixels[q + 2] = rgb[i + 2]!;
    pixels[q + 3] = 255;
  }
  (self as unknown as Worker).postMessage({ pixels } satisfies FromMixer, [pixels.buffer]);
};
