// Every material of the scene.
import type { Builder } from '../builder.ts';
import { LANTERN } from './lantern.ts';

export function materials(b: Builder): void {
  b.material('Copper', { color: [0.93, 0.5, 0.3], metallic: 1, roughness: 0.24 });
  b.material('Celadon', { color: [0.17, 0.42, 0.3], roughness: 0.16 });
  b.material('Indigo enamel', { color: [0.045, 0.075, 0.24], roughness: 0.12 });
  b.material('Brass', { color: [0.87, 0.66, 0.3], metallic: 1, roughness: 0.3 });
  b.material('Cast iron', { color: [0.035, 0.036, 0.04], metallic: 0.6, roughness: 0.5 });
  b.material('Cream glaze', { color: [0.66, 0.58, 0.45], roughness: 0.22 });
  b.material('Tea', { color: [0.16, 0.055, 0.015], roughness: 0.08 });
  b.material('Tea leaves', { color: [0.06, 0.07, 0.03], roughness: 0.9 });
  b.material('Jar glass', { color: [0.97, 0.99, 0.98], roughness: 0.02, glass: true });
  b.material('Mirror', { color: [0.93, 0.94, 0.94], metallic: 1, roughness: 0 });
  b.material('Old wood', { color: [1, 1, 1], roughness: 0.62, paint: 'wood' });
  b.material('Dark wood', { color: [0.32, 0.25, 0.2], roughness: 0.7, paint: 'wood' });
  b.material('Plaster', { color: [1, 1, 1], roughness: 0.95, paint: 'plaster' });
  b.material('Warm plaster', { color: [0.95, 0.68, 0.48], roughness: 0.95, paint: 'plaster' });
  b.material('Roof clay', { color: [0.34, 0.13, 0.075], roughness: 0.8 });
  b.material('Cobble stone', { color: [0.75, 0.76, 0.8], roughness: 0.42, paint: 'stone' });
  b.material('Wet ground', { color: [0.055, 0.053, 0.052], roughness: 1, roughnessPaint: 'puddles' });
  b.material('Awning cloth', { color: [1, 1, 1], roughness: 0.9, paint: 'stripes', twoSided: true });
  b.material('Bunting red', { color: [0.55, 0.08, 0.06], roughness: 0.9, twoSided: true });
  b.material('Bunting straw', { color: [0.75, 0.58, 0.24], roughness: 0.9, twoSided: true });
  b.material('Bunting teal', { color: [0.03, 0.2, 0.22], roughness: 0.9, twoSided: true });
  b.material('Sackcloth', { color: [1, 1, 1], roughness: 1, paint: 'weave' });
  b.material('Lantern paper', {
    color: [0.7, 0.5, 0.3],
    roughness: 0.9,
    emission: LANTERN,
    strength: 4.2,
    emissionPaint: 'paper',
  });
  b.material('Lit window', { color: [0.3, 0.2, 0.1], roughness: 0.4, emission: [1, 0.66, 0.3], strength: 0.8 });
  b.material('Dark window', { color: [0.012, 0.016, 0.022], roughness: 0.06 });
  b.material('Leaf', { color: [0.24, 0.21, 0.05], roughness: 0.55, twoSided: true });
  b.material('Autumn leaf', { color: [0.5, 0.16, 0.03], roughness: 0.55, twoSided: true });
  b.material('Bark', { color: [0.075, 0.055, 0.042], roughness: 0.95 });
  b.material('Rope', { color: [0.36, 0.29, 0.2], roughness: 1 });
}
