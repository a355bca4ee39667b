// A made-up foreign scene: 20,000 objects in 200 groups, each with a mesh of its own, five million triangles stored.
import { Document, WebIO } from '@gltf-transform/core';

export async function bigScene(objects = 20_000, trianglesEach = 250): Promise<Uint8Array> {
  const doc = new Document();
  const buffer = doc.createBuffer();
  const scene = doc.createScene();
  const root = doc.createNode('Market');
  const materials = Array.from({ length: 40 }, (_, i) =>
    doc
      .createMaterial(`Glaze ${i + 1}`)
      .setBaseColorFactor([0.3 + (i % 7) / 10, 0.4 + (i % 5) / 10, 0.5, 1])
      .setRoughnessFactor(0.5),
  );
  scene.addChild(root);
  // a bowl-like sheet of triangles, a little different for each object
  const side = Math.max(1, Math.round(Math.sqrt(trianglesEach / 2)));
  const indices: number[] = [];
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side; x++) {
      const a = y * (side + 1) + x;
      const b = a + side + 1;
      indices.push(a, a + 1, b, a + 1, b + 1, b);
    }
  const index = doc.createAccessor().setType('SCALAR').setArray(new Uint16Array(indices)).setBuffer(buffer);
  let group = root;
  for (let i = 0; i < objects; i++) {
    if (i % 100 === 0) {
      group = doc.createNode(`Row ${i / 100 + 1}`);
      root.addChild(group);
    }
    const positions = new Float32Array((side + 1) ** 2 * 3);
    for (let y = 0; y <= side; y++)
      for (let x = 0; x <= side; x++) {
        const u = x / side - 0.5;
        const v = y / side - 0.5;
        positions.set([u, (u * u + v * v) * (1 + (i % 97) / 97) + i * 1e-7, v], (y * (side + 1) + x) * 3);
      }
    const mesh = doc.createMesh(`Bowl ${i + 1}`).addPrimitive(
      doc
        .createPrimitive()
        .setAttribute('POSITION', doc.createAccessor().setType('VEC3').setArray(positions).setBuffer(buffer))
        .setIndices(index)
        .setMaterial(materials[i % materials.length]!),
    );
    group.addChild(
      doc
        .createNode(`Bowl ${i + 1}`)
        .setMesh(mesh)
        .setTranslation([(i % 200) * 1.2, 0, Math.floor(i / 200) * 1.2]),
    );
  }
  return new WebIO().writeBinary(doc);
}
