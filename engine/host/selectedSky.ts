// The environment of a look: what lights, what is seen, what fills the air.
import { type ResolvedState, type Value, parseImage, skyOf } from '@variscen/core/looks';
import { num, rgb, scaled } from './looked.ts';
import type { EngineFog, EnvironmentInput } from './scene.ts';
import type { SelectedSky, Selection } from './selection.ts';

/** Rows of the generated environments. */
export const ENVIRONMENT_HEIGHT = 128;
const SKY_SIZE = { width: ENVIRONMENT_HEIGHT * 2, height: ENVIRONMENT_HEIGHT };
export const sizeOf = ({ kind }: SelectedSky): { readonly width: number; readonly height: number } =>
  typeof kind === 'string' ? SKY_SIZE : kind;

const SKY_INPUTS = [
  ['camera', 'seen'],
  ['reflection', 'reflected'],
  ['refraction', 'refracted'],
] as const;

type SelectedEnvironment = Pick<Selection, 'environment' | 'environmentInputs' | 'plate' | 'fog'>;

export function selectEnvironment(state: ResolvedState): SelectedEnvironment {
  const environment = (p: string) => state.get('environment', `environment.${p}`);
  const scale = scaled(rgb(environment('tint')), num(environment('strength')));
  const turnRad = (num(environment('turn')) * Math.PI) / 180;
  const saturation = num(environment('saturation'));
  const sky = (value: Value | undefined): SelectedSky | undefined => {
    const kind = skyOf(state, value);
    return kind && Math.max(...scale) > 0 ? { kind, scale, turnRad, saturation } : undefined;
  };
  const environmentInputs: Partial<Record<EnvironmentInput, SelectedSky | 'none'>> = {};
  for (const [input, property] of SKY_INPUTS) {
    const kind = environment(property);
    if (kind !== 'same' && kind !== environment('kind')) environmentInputs[input] = sky(kind) ?? 'none';
  }
  const image = parseImage(environment('plate'));
  const plate = image && { image, strength: num(environment('plateStrength')) };
  if (plate) environmentInputs.camera = 'none';
  return { environment: sky(environment('kind')), environmentInputs, plate, fog: fogOf(environment) };
}

function fogOf(environment: (p: string) => Value | undefined): EngineFog | undefined {
  const extinctionPerM = num(environment('fogDensity'));
  if (extinctionPerM <= 0) return undefined;
  return {
    extinctionPerM,
    albedo: rgb(environment('fogColor')),
    anisotropy: num(environment('fogForward')),
    topM: num(environment('fogTop')),
  };
}
