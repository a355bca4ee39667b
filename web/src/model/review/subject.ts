// What is held against each other: pictures of cells, and pictures of others.
import type { Reference } from '@variscen/contract';
import { version } from '../../ui/format.ts';
import type { Listed } from './strip.ts';

export interface Subject {
  readonly id: string;
  readonly name: string;
  /** Where there is little room. */
  readonly shortName: string;
  readonly widthPx: number;
  readonly heightPx: number;
  /** null: it is a reference, which nobody judges. */
  readonly entry: Listed | null;
}

export function subjectOf(entry: Listed): Subject {
  const { camera, variant, rendered } = entry;
  const { id, widthPx, heightPx } = rendered;
  return {
    id,
    name: `${camera.name} in ${variant.name}, ${version(rendered.version)}`,
    shortName: `${variant.name} ${version(rendered.version)}`,
    widthPx,
    heightPx,
    entry,
  };
}
export const subjectOfReference = ({ id, name, widthPx, heightPx }: Reference): Subject => ({
  id,
  name,
  shortName: name,
  widthPx,
  heightPx,
  entry: null,
});
