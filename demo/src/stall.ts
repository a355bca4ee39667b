// A tea stall in a lantern-lit lane on the evening of a harvest fair. Metres; the stall stands at the origin and faces
// +Z, the lane runs towards +Z.
import { Builder } from './builder.ts';
import { cameras } from './stall/cameras.ts';
import { dressing } from './stall/dressing.ts';
import { ground } from './stall/ground.ts';
import { houses } from './stall/houses.ts';
import { lanterns } from './stall/lanterns.ts';
import { lights } from './stall/lights.ts';
import { materials } from './stall/materials.ts';
import { stall } from './stall/stall.ts';
import { tree } from './stall/tree.ts';
import { ware } from './stall/ware.ts';
import { town } from './town/town.ts';

/** Heavy: with a quarter of the town about it, 23 million triangles more, none of them copies. */
export const WEIGHTS = ['light', 'full', 'heavy'] as const;
export type Weight = (typeof WEIGHTS)[number];
export const isWeight = (x: string): x is Weight => (WEIGHTS as readonly string[]).includes(x);

/** @param framesBy how many times as wide and high as they are its cameras' frames are */
export async function makeTeaStall(weight: Weight, framesBy = 1): Promise<Uint8Array> {
  const full = weight !== 'light';
  const b = new Builder(full ? 512 : 64);
  const q = (heavy: number, light: number) => (full ? heavy : light);
  materials(b);
  const root = b.node(null, 'Harvest fair');
  ground(b, root, q);
  houses(b, root, q);
  stall(b, root, q);
  ware(b, root, q);
  lanterns(b, root, q);
  dressing(b, root, q);
  tree(b, root, q);
  lights(b, root);
  cameras(b, root, framesBy);
  if (weight === 'heavy') town(b, root);
  return b.write();
}
