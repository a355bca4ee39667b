import { type Change, SceneIndex, resolve } from '@variscen/core/looks';
import { type SceneDocument, cameraForScene } from '@variscen/core/scene';
import { describe, expect, it } from 'vitest';
import { MOST_PIXELS, threadsFor, wishOf } from './wish.ts';

const document: SceneDocument = {
  version: 1,
  nodes: [
    { path: 'Lamp', name: 'Lamp', parent: -1, matrix: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1], light: 0 },
  ],
  meshes: [],
  materials: [],
  textures: [],
  lights: [{ type: 'point', color: [1, 1, 1], intensity: 5, radiusM: 0 }],
  cameras: [],
};
const wish = (width: number, height: number, ...changes: Change[]) =>
  wishOf({
    sceneHash: 'abc',
    state: resolve(new SceneIndex(document), [{ id: 'x', name: '', kind: 'base', changes }]),
    camera: { ...cameraForScene(document), crop: { left: 10, top: 10, right: 20, bottom: 20 } },
    width,
    height,
  });

describe('what the live render is asked for', () => {
  it('is the look without its grade, and the grade apart: it costs no trace', () => {
    const w = wish(
      600,
      300,
      { target: 'light:Lamp', property: 'light.intensity', value: 9 },
      { target: 'grade', property: 'grade.exposure', value: 2 },
    );
    expect(w.changes).toEqual([{ target: 'light:Lamp', property: 'light.intensity', value: 9 }]);
    expect(w.grade).toMatchObject({ exposureEv: 2, contrast: 1 });
  });
  it('has the size that it has on the page, up to what can be rendered while one looks, and keeps its shape', () => {
    expect(wish(600, 300)).toMatchObject({ widthPx: 600, heightPx: 300, camera: { widthPx: 600, heightPx: 300 } });
    const large = wish(3000, 1500);
    expect(large.widthPx * large.heightPx).toBeLessThanOrEqual(MOST_PIXELS * 1.01);
    expect(large.widthPx / large.heightPx).toBeCloseTo(2, 2);
    expect(wish(0, 0)).toMatchObject({ widthPx: 1, heightPx: 1 });
  });
  it('is the whole frame, whatever part is rendered in the batch', () => {
    expect(wish(600, 300).camera.crop).toBeUndefined();
  });
  it('is a region alone where one is marked off, as fine as it is on the page, also where the whole would be too much', () => {
    const region = { left: 25, top: 50, right: 75, bottom: 100 };
    const state = resolve(new SceneIndex(document), []);
    const camera = cameraForScene(document);
    const part = wishOf({ sceneHash: 'abc', state, camera, width: 1200, height: 800, region });
    expect(part).toMatchObject({ widthPx: 1200, heightPx: 800, camera: { crop: region, widthPx: 1200 } });
    const whole = wishOf({ sceneHash: 'abc', state, camera, width: 1200, height: 800 });
    expect(whole.widthPx).toBeLessThan(1200);
  });
  it('leaves a core to the page where there are more than two', () => {
    expect([1, 2, 4, 64].map(threadsFor)).toEqual([1, 2, 3, 16]);
  });
});
