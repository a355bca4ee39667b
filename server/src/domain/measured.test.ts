import { hostBytes, sumOf } from '@variscen/engine';
import { describe, expect, it } from 'vitest';
import type { DoneTrace } from './measured.ts';
import { restBytes } from './measured.ts';

const plannedBytes = { vertices: 4e6, acceleration: 9e6, textures: 2e6, lights: 1e6, film: 50e6, scratch: 5e6 };
const row = (over: { peakBytes?: number; seconds?: number; projectId?: string } = {}): DoneTrace =>
  ({
    projectId: over.projectId ?? 'a',
    widthPx: 1000,
    heightPx: 500,
    crop: null,
    result: { samples: 10, seconds: over.seconds ?? 5, plannedBytes, peakBytes: over.peakBytes ?? 300e6 },
  }) as unknown as DoneTrace;

describe('what a process takes beside a job', () => {
  const known = sumOf(plannedBytes) + hostBytes(plannedBytes, 500_000);
  it('is the most that the last traces took over what was known of them', () => {
    const done = [
      row({ peakBytes: known + 90e6 }),
      row({ peakBytes: known + 140e6 }),
      row({ peakBytes: known + 70e6 }),
    ];
    expect(restBytes(done, 60e6)).toBe(140e6);
  });
  it('goes by the latest traces only', () => {
    const late = Array.from({ length: 10 }, () => row({ peakBytes: known + 80e6 }));
    expect(restBytes([...late, row({ peakBytes: known + 900e6 })], null)).toBe(80e6);
  });
  it('is what a node said of itself before the first trace, unknown without one, and never less than nothing', () => {
    expect(restBytes([], 95e6)).toBe(95e6);
    expect(restBytes([], null)).toBeNull();
    expect(restBytes([row({ peakBytes: 1e6 })], 95e6)).toBe(0);
  });
});
