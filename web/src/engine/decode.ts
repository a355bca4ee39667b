/** An encoded image as RGBA of 8 bits. @throws Error by its name where it is not as large as it should be */
export async function decode(
  t: { readonly name: string; readonly width: number; readonly height: number },
  bytes: Uint8Array<ArrayBuffer>,
): Promise<Uint8Array> {
  const image = await createImageBitmap(new Blob([bytes]), { premultiplyAlpha: 'none', colorSpaceConversion: 'none' });
  try {
    if (image.width !== t.width || image.height !== t.height)
      throw new Error(`Texture “${t.name}” is damaged. Import the scene again.`);
    const canvas = new OffscreenCanvas(t.width, t.height);
    const context = canvas.getContext('2d', { willReadFrequently: true })!;
    context.drawImage(image, 0, 0);
    return new Uint8Array(context.getImageData(0, 0, t.width, t.height).data.buffer);
  } finally {
    image.close();
  }
}
