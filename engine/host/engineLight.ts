// A light as a look has it, in the engine's terms.
import type { LightNow } from '@variscen/core/looks';
import { scaled } from './looked.ts';
import type { EngineLight, Vec3 } from './scene.ts';

export function engineLight({ light, matrix: m }: LightNow): EngineLight {
  const power = scaled(light.color, light.intensity);
  const position: Vec3 = [m[12]!, m[13]!, m[14]!];
  const direction: Vec3 = [-m[8]!, -m[9]!, -m[10]!];
  switch (light.type) {
    case 'sun':
      return { type: 'sun', direction, illuminanceLux: power, angularDiameterRad: light.angularDiameterRad };
    case 'point':
      return { type: 'point', position, intensityCd: power, radiusM: light.radiusM };
    case 'spot':
      return {
        type: 'spot',
        position,
        direction,
        intensityCd: power,
        radiusM: light.radiusM,
        innerConeRad: light.innerConeRad,
        outerConeRad: light.outerConeRad,
      };
    case 'disc':
      return { type: 'disc', matrix: m, radiusM: light.radiusM, radianceNits: power };
    case 'rectangle':
      return { type: 'rectangle', matrix: m, widthM: light.widthM, heightM: light.heightM, radianceNits: power };
  }
}
