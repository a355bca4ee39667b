// Lets tests and benchmarks read single numbers that otherwise stay inside.
import { evaluate } from './bsdf';
import { scatter } from './scatter';
import { random3 } from './sampling';
import { readSurface } from './surface';
import { vec } from './vec';

/** Writes lanes 0…2 of a random point to out. */
export function random3At(seed: u32, sample: u32, pair: u32, out: usize): void {
  v128.store(out, random3(seed, sample, pair));
}
/** Reads the surface of a hit of unit direction x y z into the record at S. */
export function surfaceAt(job: usize, hit: usize, inst: usize, x: f32, y: f32, z: f32, S: usize): void {
  readSurface(job, hit, inst, vec(x, y, z), 0, S);
}
export function evaluateAt(job: usize, S: usize, x: f32, y: f32, z: f32): void {
  evaluate(job, S, vec(x, y, z));
}
export function scatterAt(job: usize, S: usize, r1: f32, r2: f32, r3: f32, pick: f32): void {
  scatter(job, S, vec(r1, r2, r3), pick);
}
