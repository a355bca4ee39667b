// Pictures for panels that are made here.
import { type PanelGradient, gradientPixels } from '@variscen/core/looks';

/** Fine enough: it is read between its pixels. */
const SIDE_PX = 256;

/** As a file that is brought in as any other. */
export async function gradientFile(gradient: PanelGradient): Promise<File> {
  const canvas = document.createElement('canvas');
  canvas.width = SIDE_PX;
  canvas.height = SIDE_PX;
  const context = canvas.getContext('2d');
  const image = new ImageData(gradientPixels(gradient, SIDE_PX), SIDE_PX, SIDE_PX);
  context?.putImageData(image, 0, 0);
  const blob = await new Promise<Blob | null>((done) => canvas.toBlob(done, 'image/png'));
  if (!context || !blob) throw new Error('This browser could not make the picture. Import one as a file.');
  return new File([blob], `${gradient.name}.png`, { type: 'image/png' });
}
