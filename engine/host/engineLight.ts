// A light as a look has it, in the engine's terms.
import type { LightNow } from '@variscen/core/looks';
import { scaled } from './looked.ts';
import type { EngineLight, Vec3 } from './scene.ts';

export function engineLight({ light, matrix: m, seenByCamera }: LightNow): EngineLight {
  const power = scaled(light.color, light.intensity);
  const position: Vec3 = [m[12]!, m[13]!, m[14]!];
  const direction: Vec3 = [-m[8]!, -m[9]!, -m[10]!];
  const panel = { matrix: m, radianceNits: power, ...(seenByCamera && { seenByCamera }) };
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
    case 'ball':
      return { ...panel, type: light.type, radiusM: light.radiusM };
    case 'rectangle':
      return { ...panel, type: 'rectangle', widthM: light.widthM, heightM: light.heightM };
  }
}
