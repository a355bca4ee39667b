import { createHash } from 'node:crypto';
import { SceneIndex, propertyOf, resolve } from '@variscen/core/looks';
import { importScene } from '@variscen/core/import';
import validator from 'gltf-validator';
import { beforeAll, describe, expect, it } from 'vitest';
import { DEMO_BASE, DEMO_OPTIONS, DEMO_VARIANTS, type Weight, makeTeaStall } from './index.ts';

const bring = async (glb: Uint8Array) =>
  importScene('tea-stall.glb', glb, {
    hash: (b) => createHash('sha256').update(b).digest('hex'),
    accelerationBytes: () => Promise.resolve(0),
  });

describe.each<[Weight, (triangles: number) => void]>([
  [
    'light',
    (n) => {
      expect(n).toBeLessThan(60_000);
    },
  ],
  [
    'full',
    (n) => {
      expect(n).toBeGreaterThanOrEqual(1_500_000);
    },
  ],
])('the tea stall, %s', (weight, hasItsWeight) => {
  let glb: Uint8Array, scene: Awaited<ReturnType<typeof bring>>;
  beforeAll(async () => {
    glb = await makeTeaStall(weight);
    scene = await bring(glb);
  }, 60_000);

  it('is valid glTF without a warning', async () => {
    const { issues } = await validator.validateBytes(glb, { maxIssues: 5, ignoredIssues: ['UNUSED_OBJECT'] });
    expect(issues.messages.filter((m) => m.severity < 2)).toEqual([]);
  });
  it('has its weight, its objects, and six cameras of differing frames', () => {
    hasItsWeight(scene.report.trianglesPlaced);
    expect(scene.report.objects).toBeGreaterThan(400);
    expect(scene.report.faults).toEqual([]);
    expect(new Set(scene.document.cameras.map((c) => c.widthPx / c.heightPx)).size).toBeGreaterThanOrEqual(5);
    expect(scene.document.cameras).toHaveLength(6);
  });
  it('every recorded look finds what it changes', () => {
    const index = new SceneIndex(scene.document);
    for (const o of DEMO_OPTIONS)
      expect(
        resolve(index, [{ id: o.name, name: o.name, kind: 'option', facet: o.facet, changes: o.changes }]).unmatched,
      ).toEqual([]);
    expect(resolve(index, [{ id: 'base', name: 'Base', kind: 'base', changes: DEMO_BASE }]).unmatched).toEqual([]);
    for (const c of DEMO_OPTIONS.flatMap((o) => o.changes))
      if (c.property === 'object.material') expect(index.materials.has(String(c.value))).toBe(true);
  });
});

describe('the recorded looks', () => {
  it('are at least three options in each of four facets, and eight variants of known options', () => {
    for (const facet of ['lighting', 'environment', 'materials', 'visibility'] as const)
      expect(DEMO_OPTIONS.filter((o) => o.facet === facet).length).toBeGreaterThanOrEqual(3);
    for (const o of DEMO_OPTIONS) for (const c of o.changes) expect(propertyOf(c.property)?.facet).toBe(o.facet);
    expect(DEMO_VARIANTS).toHaveLength(8);
    for (const v of DEMO_VARIANTS)
      for (const name of v.options) expect(DEMO_OPTIONS.map((o) => o.name)).toContain(name);
  });
});
