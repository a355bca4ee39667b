// What an OpenEXR file of ours is made from.

export interface ExrChannel {
  /** "R", "G", "depth.Z" … */
  readonly name: string;
  readonly type: 'half' | 'float';
  /**
   * Holds the channel's values, top row first: value i is data[offset + i * stride], so that a channel can be a part of
   * a film's plane without a copy.
   */
  readonly data: Float32Array;
  /** 1 where absent. */
  readonly stride?: number;
  /** 0 where absent. */
  readonly offset?: number;
}

export interface ExrImage {
  readonly width: number;
  readonly height: number;
  readonly channels: readonly ExrChannel[];
  /** Where this picture lies in a larger frame; absent: it is the frame. */
  readonly within?: { readonly left: number; readonly top: number; readonly width: number; readonly height: number };
  /** Sixteen lines packed together, one line, or nothing packed; zip where absent. */
  readonly compression?: 'zip' | 'zips' | 'none';
  /** Text attributes; names must be plain identifiers. */
  readonly metadata?: Readonly<Record<string, string>>;
}

/** @throws RangeError where a picture has no channel, or a channel does not hold a value for each pixel */
export function checkExrImage({ width, height, channels }: ExrImage): void {
  if (!channels.length) throw new RangeError('An OpenEXR file needs a channel.');
  for (const { name, data, stride = 1, offset = 0 } of channels) {
    const held = Math.floor((data.length - offset - 1) / stride) + 1;
    const fits = stride === 1 && offset === 0 ? data.length === width * height : held >= width * height;
    if (!fits) throw new RangeError(`Channel ${name} has ${held} values for ${width * height} pixels.`);
  }
}

/** The format wants channels in alphabetical order. */
export function inFileOrder(channels: readonly ExrChannel[]): ExrChannel[] {
  return [...channels].sort((a, b) => (a.name < b.name ? -1 : 1));
}
