// Mixes a picture's light groups and shows it by its grade, apart from the page's thread.
import { type LightPicture, lensed, mixedLight, toScreen, unpackLightPicture } from '@variscen/core/image';
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
  const pixels = toScreen(light, shown.grade, shown.lut);
  (self as unknown as Worker).postMessage({ pixels } satisfies FromMixer, [pixels.buffer]);
};
