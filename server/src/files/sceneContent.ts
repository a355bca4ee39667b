// What a scene document refers to by content hash, and what each is.
import type { SceneDocument } from '@variscen/core/scene';

export function* contentOf(d: SceneDocument): Generator<readonly [hash: string, what: string]> {
  for (const m of d.meshes) {
    yield [m.blob, `the mesh “${m.name}”`];
    if (m.deform) yield [m.deform.blob, `what deforms the mesh “${m.name}”`];
  }
  for (const t of d.textures) yield [t.blob, `the texture “${t.name}”`];
  if (d.animation) yield [d.animation.blob, 'the animation'];
}
