/** A film that is shown, before its grade. */
export interface Shown {
  readonly film: Float32Array;
  readonly widthPx: number;
  readonly heightPx: number;
  /** Where it lies in the frame, and how large that is, in pixels. */
  readonly place: {
    readonly left: number;
    readonly top: number;
    readonly widthPx: number;
    readonly heightPx: number;
  };
  readonly samples: number;
  readonly seconds: number;
  readonly memoryBytes: number;
  readonly threads: number;
  readonly finished: boolean;
}
