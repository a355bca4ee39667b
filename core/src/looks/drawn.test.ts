import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { IDENTITY, type SceneDocument, type SceneNode, cameraForScene } from '../scene/index.ts';
import { NEUTRAL_GRADE } from '../image/index.ts';
import { DRAWN_LOOKS, SceneIndex, differences, drawnLooks, gradeOf, inputsOf, objectTarget, resolve } from './index.ts';

const node = (path: string, parent: number): SceneNode => ({ path, name: path, parent, matrix: IDENTITY });
const document: SceneDocument = {
  version: 1,
  meshes: [],
  textures: [],
  cameras: [],
  materials: [],
  lights: [],
  nodes: [
    node('Stall', -1),
    node('Stall/Shelf', 0),
    node('Stall/Shelf/Jar', 1),
    node('Stall/Counter', 0),
    node('Lane', -1),
  ],
};
const scene = new SceneIndex(document);
const state = (...changes: [target: string, property: string, value: string | number][]) =>
  resolve(scene, [
    {
      id: 'x',
      name: '',
      kind: 'base',
      changes: changes.map(([target, property, value]) => ({ target, property, value })),
    },
  ]);

describe('how objects are drawn', () => {
  it('is what the nearest of them and their groups says', () => {
    expect(drawnLooks(state())).toEqual(['own', 'own', 'own', 'own', 'own']);
    expect(
      drawnLooks(state(['object:Stall', 'object.drawn', 'clay'], ['object:Stall/Shelf', 'object.drawn', 'ink'])),
    ).toEqual(['clay', 'ink', 'ink', 'clay', 'own']);
    expect(
      drawnLooks(
        state(
          ['object:Stall', 'object.drawn', 'clay'],
          ['object:Stall/Shelf', 'object.drawn', 'own'],
          ['object:Stall/Shelf/Jar', 'object.drawn', 'group'],
        ),
      ),
    ).toEqual(['clay', 'own', 'own', 'clay', 'own']);
  });
  it('is what the whole scene says where no object and no group says anything else', () => {
    expect(drawnLooks(state(['scene', 'scene.drawn', 'ink']))).toEqual(['ink', 'ink', 'ink', 'ink', 'ink']);
    expect(
      drawnLooks(
        state(
          ['scene', 'scene.drawn', 'clay'],
          ['object:Stall/Shelf', 'object.drawn', 'own'],
          ['object:Stall/Shelf/Jar', 'object.drawn', 'ink'],
          ['object:Lane', 'object.drawn', 'group'],
        ),
      ),
    ).toEqual(['clay', 'own', 'ink', 'clay', 'clay']);
  });
  it('never changes outside the group that says it', () =>
    fc.assert(
      fc.property(
        fc.constantFrom(...DRAWN_LOOKS.map((d) => d.id)),
        fc.constantFrom(...document.nodes.map((n) => n.path)),
        (look, path) => {
          drawnLooks(state([objectTarget(path), 'object.drawn', look])).forEach((d, i) => {
            const p = document.nodes[i]!.path;
            if (p !== path && !p.startsWith(`${path}/`)) expect(d).toBe('own');
          });
        },
      ),
    ));
});

describe('the grade of a look', () => {
  it('is neutral where nothing changes it, and what was changed where something does', () => {
    expect(gradeOf(state())).toEqual(NEUTRAL_GRADE);
    expect(gradeOf(state(['grade', 'grade.exposure', 1.5], ['grade', 'grade.saturation', 0]))).toEqual({
      ...NEUTRAL_GRADE,
      exposureEv: 1.5,
      saturation: 0,
    });
  });
});

describe('what is said of a changed camera', () => {
  const camera = cameraForScene(document);
  const said = (was: object, now: object) =>
    differences(
      inputsOf('s', { ...camera, fStop: 2, ...was }, state()),
      inputsOf('s', { ...camera, fStop: 2, ...now }, state()),
      state(),
    ).map((d) => `${d.what}: ${d.was} → ${d.is}`);
  it('names lens shift, blades, frame and crop in words', () => {
    expect(said({}, { shiftX: 0.25, blades: 6 })).toEqual([
      'shift to the right: none → 0.25',
      'aperture blades: none → 6',
    ]);
    expect(said({ frame: 3 }, { frame: 12 })).toEqual(['frame: 3 → 12']);
    expect(said({}, { crop: { left: 25, top: 0, right: 75, bottom: 50 } })).toEqual([
      'part of the frame: none → 25 to 75 % across, 0 to 50 % down',
    ]);
    expect(said({ crop: undefined }, {})).toEqual([]);
  });
});
