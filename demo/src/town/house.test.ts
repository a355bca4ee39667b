import validator from 'gltf-validator';
import { describe, expect, it } from 'vitest';
import { Builder } from '../builder.ts';
import { materials } from '../stall/materials.ts';
import { house } from './house.ts';

describe('a house of the town', () => {
  it('is a valid file of a hundred thousand triangles and more, none of them a copy, and no other house', async () => {
    const built = async (number: number) => {
      const b = new Builder(16);
      materials(b);
      const plan = { number, at: [3, 0, 1] as const, turn: 90, wall: 'Plaster', roof: 'Roof clay', wood: 'Dark wood' };
      house(b, b.node(null, 'Town'), plan);
      return { bytes: await b.write(), root: b.doc.getRoot() };
    };
    const { bytes, root } = await built(3);
    const { issues } = await validator.validateBytes(bytes, { maxIssues: 5, ignoredIssues: ['UNUSED_OBJECT'] });
    expect(issues.messages.filter((m) => m.severity < 1)).toEqual([]);
    const triangles = root
      .listMeshes()
      .flatMap((m) => m.listPrimitives())
      .reduce((n, p) => n + p.getIndices()!.getCount() / 3, 0);
    expect(triangles).toBeGreaterThan(100_000);
    const shown = root.listNodes().flatMap((n) => n.getMesh() ?? []);
    expect(new Set(shown).size).toBe(shown.length);
    expect(Buffer.from((await built(4)).bytes).equals(Buffer.from(bytes))).toBe(false);
    expect(Buffer.from((await built(3)).bytes).equals(Buffer.from(bytes))).toBe(true);
  });
});
