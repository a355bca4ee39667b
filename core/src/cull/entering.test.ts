// What comes into the frame between two frames that are measured.
import { describe, expect, it } from 'vitest';
import { type CameraSettings, IDENTITY, type SceneDocument } from '../scene/index.ts';
import { type AtFrame, entering, inFrame } from './index.ts';

const camera: CameraSettings = {
  matrix: IDENTITY,
  projection: 'perspective',
  widthPx: 160,
  heightPx: 90,
  sensorWidthMm: 36,
  focalLengthMm: 36,
  orthoHalfHeightM: 1,
  nearM: 0.1,
  farM: 50,
  focusDistanceM: 3,
  fStop: null,
  cullMarginPct: null,
};
const standing = (x: number) => [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, x, 0, -10, 1];
const object = (path: string, x: number) => ({
  path,
  name: path,
  parent: -1,
  matrix: standing(x),
  parts: [{ mesh: 0, material: 0 }],
});
const MESH = { name: 'box', blob: 'box', min: [-0.1, -0.1, -0.1], max: [0.1, 0.1, 0.1], triangles: 12, vertices: 8 };
/** A cart goes from far left to far right, a gate stands in the frame, a house never comes into it. */
const at = (frame: number): AtFrame => ({
  document: {
    nodes: [object('cart', frame * 2 - 20), object('gate', 0), object('house', 40)],
    meshes: [MESH],
    materials: [],
  } as unknown as SceneDocument,
  camera,
});
const frames = Array.from({ length: 21 }, (_, i) => at(i));

describe('what comes into the frame', () => {
  it('is in it where its box is', () => {
    expect([...inFrame(at(0))]).toEqual(['gate']);
    expect([...inFrame(at(10))]).toEqual(['cart', 'gate']);
  });
  it('between the frames that are measured is told, and what they show themselves is not', () => {
    expect(entering(frames, [at(0), at(20)])).toEqual(['cart']);
    expect(entering(frames, [at(0), at(10), at(20)])).toEqual([]);
    expect(entering([at(0), at(20)], [at(0), at(20)])).toEqual([]);
  });
  it('also where it is the camera that moves', () => {
    const turned = (away: number): AtFrame => {
      const [c, s] = [Math.cos(away), Math.sin(away)];
      return { ...at(0), camera: { ...camera, matrix: [c, 0, -s, 0, 0, 1, 0, 0, s, 0, c, 0, 0, 0, 0, 1] } };
    };
    const quarter = Math.PI / 2;
    const all = Array.from({ length: 9 }, (_, i) => turned(-quarter + (i * quarter) / 4));
    expect(entering(all, [turned(-quarter), turned(quarter)])).toEqual(['gate']);
  });
});
