// Names of layers of single lights, whatever lights are called.
import fc from 'fast-check';
import { expect, it } from 'vitest';
import { lightLayerNames } from '../host/apartLights.ts';

it('layers of lights have names that every reader of OpenEXR takes, each once', () => {
  const name = fc.oneof(
    fc.string({ maxLength: 60, unit: 'binary' }),
    fc.constantFrom('Lamp', 'Lane/Lamp', '', '/', '名前', 'a.R', 'x'.repeat(300), 'Lamp_2', 'sky'),
  );
  fc.assert(
    fc.property(fc.array(fc.tuple(fc.constantFrom('light:', 'material:'), name), { maxLength: 20 }), (targets) => {
      const names = lightLayerNames(['environment', ...targets.map((t) => t.join(''))]);
      expect(new Set(names).size).toBe(targets.length + 1);
      expect(names[0]).toBe('sky');
      for (const n of names) {
        expect(n).toMatch(/^[A-Za-z0-9_-]+$/);
        expect(`light.${n}.R`.length).toBeLessThanOrEqual(31);
      }
    }),
  );
});
it('are called by the last part of the path', () => {
  expect(lightLayerNames(['light:Lane/Lantern 3', 'light:Yard/Lantern 3', 'material:Ember'])).toEqual([
    'Lantern_3',
    'Lantern_3_2',
    'Ember',
  ]);
});
