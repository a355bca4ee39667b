// A stream that ends with a fault where more comes than is taken.
import { AppError } from '@variscen/contract';

/** For pipeline(). @throws AppError TOO_LARGE */
export function limited(mostBytes: number) {
  return async function* (chunks: AsyncIterable<Uint8Array>) {
    let seen = 0;
    for await (const chunk of chunks) {
      seen += chunk.length;
      if (seen > mostBytes) {
        throw new AppError('TOO_LARGE', `The file is larger than ${Math.round(mostBytes / 1e6)} MB.`);
      }
      yield chunk;
    }
  };
}
