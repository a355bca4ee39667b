// A latitude-longitude map of light.
export interface EnvironmentMap {
  readonly width: number;
  readonly height: number;
  readonly data: Float32Array;
}
