import { describe, expect, it } from 'vitest';
import { IDENTITY, type SceneDocument } from '@variscen/core/scene';
import { SceneIndex } from '@variscen/core/looks';
import { project } from '../../testing.tsx';
import { findableIn, foundAmong } from './findable.ts';

const node = (path: string, more: object = {}) => ({
  path,
  name: path.split('/').at(-1)!,
  parent: -1,
  matrix: IDENTITY,
  ...more,
});
const document: SceneDocument = {
  version: 1,
  meshes: [],
  textures: [],
  cameras: [],
  lights: [],
  materials: [{ name: 'Samovar brass' } as never],
  nodes: [
    node('Ware'),
    node('Ware/Samovar', { parts: [{ mesh: 0, material: 0 }] }),
    node('Lamp over the samovar', { light: 0 }),
  ],
};

describe('what is found', () => {
  const list = findableIn(project, new SceneIndex(document));
  const labels = (question: string) => foundAmong(list, question, 5).map((f) => `${f.kind}: ${f.label}`);

  it('has all words of the question in its name or kind, what begins with it first', () => {
    expect(labels('samovar')).toEqual([
      'Material: Samovar brass',
      'Object: Ware/Samovar',
      'Light: Lamp over the samovar',
    ]);
    expect(labels('light samovar')).toEqual(['Light: Lamp over the samovar']);
    expect(labels('BOARD')[0]).toBe('Go to: Board');
    expect(labels('no such thing')).toEqual([]);
  });

  it('leads to the Stage that shows it', () => {
    const [camera] = project.cameras;
    const [found] = foundAmong(list, camera!.name, 1);
    expect(found!.leads).toEqual({ to: 'stage', asks: { camera: camera!.id } });
    expect(foundAmong(list, 'ware/samovar', 1)[0]!.leads).toEqual({
      to: 'stage',
      asks: { selected: 'object:Ware/Samovar' },
    });
    expect(foundAmong(list, 'brass', 1)[0]!.leads).toEqual({
      to: 'stage',
      asks: { selected: 'material:Samovar brass' },
    });
  });

  it('is found among twenty thousand objects while one types', () => {
    const nodes = Array.from({ length: 20_000 }, (_, i) => node(`House ${i % 70}/Tile ${i}`));
    const many = findableIn(project, new SceneIndex({ ...document, nodes }));
    expect(foundAmong(many, 'tile 19999', 40).map((f) => f.label)).toEqual([`House ${19_999 % 70}/Tile 19999`]);
    expect(foundAmong(many, 'tile', 40)).toHaveLength(40);
  });
});
