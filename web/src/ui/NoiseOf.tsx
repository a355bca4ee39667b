// How noisy a picture is, among its facts; nothing where that is not known.
import type { Render } from '@variscen/contract';
import { percent } from './format.ts';

export function NoiseOf({ render: { noise } }: { render: Pick<Render, 'noise'> }) {
  if (noise === null) return null;
  return (
    <>
      <span>Noise</span>
      <b title="How far a pixel is off, to its brightness, before denoising">{percent(noise)}</b>
    </>
  );
}
