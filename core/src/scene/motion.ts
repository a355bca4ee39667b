// How a scene moves, as it is stored with the document.
export interface Transform {
  readonly translation: readonly number[];
  /** x y z w */
  readonly rotation: readonly number[];
  readonly scale: readonly number[];
}

export interface AnimationChannel {
  readonly node: number;
  readonly path: 'translation' | 'rotation' | 'scale' | 'weights';
  readonly interpolation: 'linear' | 'step' | 'cubic';
  readonly keys: number;
  /** Numbers a key's value has; cubic keys hold three such: in-tangent, value, out-tangent. */
  readonly size: number;
  /** Places in the animation's data, in floats: times in seconds, rising; values. */
  readonly times: number;
  readonly values: number;
}

export interface SceneAnimation {
  /** Content hash of the data: f32, little-endian. */
  readonly blob: string;
  readonly floats: number;
  readonly durationS: number;
  readonly names: readonly string[];
  readonly channels: readonly AnimationChannel[];
}
