import { describe, expect, it } from 'vitest';
import { ENVIRONMENT_KINDS, generateEnvironment } from './index.ts';

const pixel = (kind: 'dusk' | 'even', x: number, y: number) => {
  const m = generateEnvironment(kind, 64);
  const i = (Math.floor(y * m.height) * m.width + Math.floor(x * m.width)) * 3;
  return [...m.data.slice(i, i + 3)];
};

describe('generated skies', () => {
  it('are finite, not negative and twice as wide as high', () => {
    for (const { id } of ENVIRONMENT_KINDS) {
      if (id === 'none' || id === 'daylight' || id === 'gradient') continue;
      const m = generateEnvironment(id, 16);
      expect([m.width, m.height, m.data.length]).toEqual([32, 16, 32 * 16 * 3]);
      expect(m.data.every((x) => Number.isFinite(x) && x >= 0)).toBe(true);
    }
  });
  it('dusk glows warm low on one side and is dark blue above', () => {
    const glow = pixel('dusk', 0.5 - 35 / 360, 0.48);
    const above = pixel('dusk', 0.5, 0.05);
    expect(glow[0]).toBeGreaterThan(glow[2]! * 2);
    expect(above[2]).toBeGreaterThan(above[0]!);
    expect(glow[0]).toBeGreaterThan(above[0]! * 5);
  });
  it('even light is the same all round', () => {
    expect(pixel('even', 0.1, 0.2)).toEqual(pixel('even', 0.8, 0.2));
  });
});
