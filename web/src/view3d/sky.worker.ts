// Reads environment maps and makes them small, apart from the page's thread.
import { smallerMap, unpackMap } from '@variscen/core/environment';
import { asset } from '../api/assets.ts';
import type { SkyAnswer, SkyAsked } from './skyMessages.ts';

const post = (answer: SkyAnswer, transfer: Transferable[] = []): void =>
  (self as unknown as Worker).postMessage(answer, transfer);

self.onmessage = async ({ data: { id, sky, maxHeight } }: MessageEvent<SkyAsked>) => {
  let bytes: ArrayBuffer;
  try {
    bytes = await asset(sky.hash);
  } catch {
    post({ id, failed: 'is not on the server. Import it again.' });
    return;
  }
  try {
    const map = smallerMap(unpackMap(new Uint8Array(bytes), sky), maxHeight);
    post({ id, map }, [map.data.buffer]);
  } catch {
    post({ id, failed: 'is damaged. Import it again.' });
  }
};
