import { type Proof, packProof, unpackProof } from '@variscen/core/cull';
import { describe, expect, it } from 'vitest';
import { doubtAt, proofPixels } from './proofPicture.ts';

const side = { objects: 2, loadS: 1, traceS: 2, engineBytes: 3, peakBytes: 4, isInPieces: false };
const proof: Proof = {
  widthPx: 3,
  heightPx: 1,
  samples: 8,
  meanNits: 2,
  whole: side,
  culled: { ...side, objects: 1 },
  differingPixels: 2,
  netShare: -0.1,
  absoluteShare: 0.2,
  noiseShare: 0.15,
  pixelShare: 0.02,
  chanceShare: 0.01,
  finalNoiseShare: 0.03,
  atMostShare: 0.4,
  leftOut: ['Fair/Bowl', 'Fair/Ünder the röof'],
  nits: Float32Array.of(4, 0, 2),
  difference: Float32Array.of(0, 1, -2),
  doubt: Float32Array.of(0, 0.5, 1),
  object: Int32Array.of(-1, 1, 0),
  wholeRgb: Uint8Array.of(1, 2, 3, 4, 5, 6, 7, 8, 9),
  culledRgb: Uint8Array.of(9, 8, 7, 6, 5, 4, 3, 2, 1),
};

describe('a proof', () => {
  it('comes out of its bytes as it went in', () => {
    const bytes = packProof(proof);
    expect(unpackProof(bytes.buffer as ArrayBuffer)).toEqual(proof);
  });

  it('shows both pictures, and differences about grey to the mean light', () => {
    expect([...proofPixels(proof, 'whole', 1)].slice(0, 5)).toEqual([1, 2, 3, 255, 4]);
    expect([...proofPixels(proof, 'culled', 1)].slice(8, 12)).toEqual([3, 2, 1, 255]);
    const greys = (scale: number) => [0, 1, 2].map((i) => proofPixels(proof, 'difference', scale)[i * 4]);
    expect(greys(1)).toEqual([128, 192, 1]);
    expect(greys(100)).toEqual([128, 255, 0]);
    expect([0, 1, 2].map((i) => proofPixels(proof, 'doubt', 1)[i * 4])).toEqual([0, 64, 128]);
  });

  it('names what is missing at a pixel, to what the whole scene shows there; dark ones by a floor', () => {
    expect(doubtAt(proof, 0, 0)).toEqual({ path: null, share: 0 });
    expect(doubtAt(proof, 2, 0)).toEqual({ path: 'Fair/Bowl', share: 0.5 });
    expect(doubtAt(proof, 1, 0)).toEqual({ path: 'Fair/Ünder the röof', share: 5 });
    expect(doubtAt(proof, 99, 99).path).toBe('Fair/Bowl');
  });
});
