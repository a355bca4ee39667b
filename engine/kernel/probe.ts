// Lets tests and benchmarks read single numbers that otherwise stay inside.
import { random3 } from './sampling';
/** Writes lanes 0…2 of a random point to out. */
export function random3At(seed: u32, sample: u32, pair: u32, out: usize): void { v128.store(out, random3(seed, sample, pair)); }
