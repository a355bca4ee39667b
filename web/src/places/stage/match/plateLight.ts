// The light of a plate, small, as it lies in the frame when it is rendered under the picture: filling it.
import { decodeSrgb } from '@variscen/core/image';
import type { FramePoint } from '@variscen/core/scene';
import { asset } from '../../../api/assets.ts';

/** Wide enough to tell a sky by. */
const WIDTH = 64;

export interface PlateLight {
  readonly mediaType: string;
  /** Linear r, g, b of each pixel, and where in the frame it lies. */
  readonly light: readonly number[];
  readonly places: readonly FramePoint[];
}

/** @throws Error where it cannot be read */
export async function readPlate(
  { hash, name }: { readonly hash: string; readonly name: string },
  aspect: number,
): Promise<PlateLight> {
  const bytes = await asset(hash);
  const mediaType = mediaTypeOf(new Uint8Array(bytes));
  if (!mediaType) throw new Error(`The plate “${name}” is of a kind that is not known here.`);
  const height = Math.max(1, Math.round(WIDTH / aspect));
  const picture = await createImageBitmap(new Blob([bytes], { type: mediaType }));
  try {
    const scale = Math.max(WIDTH / picture.width, height / picture.height);
    const [w, h] = [picture.width * scale, picture.height * scale];
    const context = new OffscreenCanvas(WIDTH, height).getContext('2d')!;
    context.imageSmoothingQuality = 'high';
    context.drawImage(picture, (WIDTH - w) / 2, (height - h) / 2, w, h);
    const { data } = context.getImageData(0, 0, WIDTH, height);
    const light: number[] = [];
    const places: FramePoint[] = [];
    for (let i = 0; i < WIDTH * height; i++) {
      for (let c = 0; c < 3; c++) light.push(decodeSrgb(data[i * 4 + c]! / 255));
      places.push([((i % WIDTH) + 0.5) / WIDTH, (Math.floor(i / WIDTH) + 0.5) / height]);
    }
    return { mediaType, light, places };
  } finally {
    picture.close();
  }
}

/** By how the file begins; plates are stored as one of these. */
export function mediaTypeOf(file: Uint8Array): string | undefined {
  const begins = (...bytes: readonly number[]) => bytes.every((b, i) => file[i] === b);
  if (begins(0x89, 0x50, 0x4e, 0x47)) return 'image/png';
  if (begins(0xff, 0xd8)) return 'image/jpeg';
  return begins(0x52, 0x49, 0x46, 0x46) ? 'image/webp' : undefined;
}
