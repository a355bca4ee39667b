// A light as a look has it, in the engine's terms.
import type { LightNow } from '@variscen/core/looks';
import { scaled } from './looked.ts';
import { unit } from './packLights.ts';
import type { EngineLight, Vec3 } from './scene.ts';

export function engineLight({ light, matrix: m, seenByCamera, profile, spreadRad }: LightNow): EngineLight {
  const power = scaled(light.color, light.intensity);
  const position: Vec3 = [m[12]!, m[13]!, m[14]!];
  const direction: Vec3 = [-m[8]!, -m[9]!, -m[10]!];
  const panel = { matrix: m, radianceNits: power, ...(seenByCamera && { seenByCamera }), ...focusOf(spreadRad) };
  switch (light.type) {
    case 'sun':
      return { type: 'sun', direction, illuminanceLux: power, angularDiameterRad: light.angularDiameterRad };
    case 'point':
      return {
        type: 'point',
        position,
        intensityCd: power,
        radiusM: light.radiusM,
        ...(profile && { profile: { shares: profile.shares, axis: [0, -1, 0], across: [1, 0, 0] } }),
      };
    case 'spot':
      return {
        type: 'spot',
        position,
        direction,
        intensityCd: power,
        radiusM: light.radiusM,
        innerConeRad: light.innerConeRad,
        outerConeRad: light.outerConeRad,
        ...(profile && {
          profile: { shares: profile.shares, axis: unit(direction), across: unit([m[0]!, m[1]!, m[2]!]) },
        }),
      };
    case 'disc':
    case 'ball':
      return { ...panel, type: light.type, radiusM: light.radiusM };
    case 'rectangle':
      return { ...panel, type: 'rectangle', widthM: light.widthM, heightM: light.heightM };
  }
}

/** Half as bright at half the angle that light is spread over; nothing where that is all of it. */
function focusOf(spreadRad: number): { readonly focus?: number } {
  if (!(spreadRad < Math.PI)) return {};
  return { focus: Math.log(0.5) / Math.log(Math.cos(spreadRad / 2)) };
}
