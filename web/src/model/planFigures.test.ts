import type { Plan } from '@variscen/contract';
import { describe, expect, it } from 'vitest';
import { figuresOf } from './planFigures.ts';

type PlannedTrace = Plan['traces'][number];
const trace = (over: Partial<PlannedTrace>): PlannedTrace =>
  ({
    totalBytes: 50e6,
    totalBytesWithoutCulling: 80e6,
    processBytes: 100e6,
    expectedS: 10,
    expectedFrom: 'camera',
    droppedCount: 0,
    simplifiedCount: 0,
    inPartCount: 0,
    turnsBytes: 0,
    slower: 1,
    isRefused: false,
    culls: false,
    widthPx: 640,
    heightPx: 360,
    ...over,
  }) as PlannedTrace;
const plan = (...traces: PlannedTrace[]): Plan => ({ traces }) as unknown as Plan;

describe('what a plan comes to', () => {
  it('adds times up, and takes memory of the trace that needs most, the process with it', () => {
    const f = figuresOf(plan(trace({}), trace({ totalBytes: 400e6, processBytes: 130e6, expectedS: 25 })));
    expect([f.expectedS, f.mostBytes, f.isWhole]).toEqual([35, 530e6, true]);
  });
  it('says that it does not know where one of its parts was not measured', () => {
    const f = figuresOf(plan(trace({ expectedS: null }), trace({ processBytes: null, totalBytes: 200e6 })));
    expect([f.expectedS, f.mostBytes, f.isWhole]).toEqual([null, 200e6, false]);
  });
  it('names each frame once', () => {
    const f = figuresOf(plan(trace({}), trace({}), trace({ widthPx: 500, heightPx: 500 })));
    expect(f.frames).toEqual(['640 × 360', '500 × 500']);
  });
});
