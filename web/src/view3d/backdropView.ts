// The backdrop sweep, the ground and the plate of a look, as the real-time view shows them.
import { backdropShape, groundShape } from '@variscen/core/environment';
import { type ResolvedState, backdropOf, groundOf, parseImage } from '@variscen/core/looks';
import * as THREE from 'three';
import { asset } from '../api/assets.ts';

export class BackdropView {
  readonly group = new THREE.Group();
  private readonly mesh: THREE.Mesh<THREE.BufferGeometry, THREE.MeshStandardMaterial>;
  /** It only catches shadow: what is behind it is seen. */
  private readonly ground: THREE.Mesh<THREE.BufferGeometry, THREE.Material>;
  private plate: { readonly hash: string; readonly texture: THREE.Texture; width: number; height: number } | undefined;
  private rect: {
    readonly left: number;
    readonly top: number;
    readonly width: number;
    readonly height: number;
  } | null = null;
  constructor(
    private readonly scene: THREE.Scene,
    catcher: THREE.Material,
    private readonly changed: () => void,
    private readonly failed: (message: string) => void,
  ) {
    this.mesh = new THREE.Mesh(geometryOf(backdropShape()), new THREE.MeshStandardMaterial({ side: THREE.DoubleSide }));
    this.ground = new THREE.Mesh(geometryOf(groundShape()), catcher);
    for (const m of [this.mesh, this.ground]) {
      m.matrixAutoUpdate = false;
      m.visible = false;
    }
    this.group.add(this.mesh, this.ground);
  }

  /** Call after the sky was shown: a plate takes its place. */
  show(state: ResolvedState): void {
    const b = backdropOf(state);
    const image = parseImage(state.get('environment', 'environment.plate'));
    this.mesh.visible = b !== undefined;
    if (b) {
      this.mesh.matrix.fromArray(b.matrix);
      this.mesh.material.color.setRGB(...b.color);
      this.mesh.material.roughness = b.roughness;
      this.mesh.matrixWorldNeedsUpdate = true;
    }
    const ground = groundOf(state);
    this.ground.visible = ground !== undefined;
    if (ground) {
      this.ground.matrix.fromArray(ground.matrix);
      this.ground.matrixWorldNeedsUpdate = true;
    }
    if (image?.blob !== this.plate?.hash) {
      this.plate?.texture.dispose();
      this.plate = undefined;
      if (image) {
        const texture = new THREE.Texture();
        const plate = (this.plate = { hash: image.blob, texture, width: image.width, height: image.height });
        texture.colorSpace = THREE.SRGBColorSpace;
        void asset(image.blob)
          .then((bytes) =>
            createImageBitmap(new Blob([bytes], { type: image.mediaType }), {
              imageOrientation: 'flipY',
              colorSpaceConversion: 'none',
            }),
          )
          .then(
            (bitmap) => {
              if (this.plate !== plate) return;
              texture.image = bitmap;
              texture.flipY = false;
              texture.needsUpdate = true;
              this.changed();
            },
            () => this.failed(`The plate “${image.name}” could not be shown.`),
          );
      }
    }
    if (this.plate) {
      this.scene.background = this.plate.texture;
      this.scene.backgroundIntensity = Number(state.get('environment', 'environment.plateStrength') ?? 1);
      this.lay();
    }
  }
  /** The plate fills the frame that is looked through. */
  frame(
    rect: { readonly left: number; readonly top: number; readonly width: number; readonly height: number } | null,
    width: number,
    height: number,
  ): void {
    this.rect = rect && {
      left: rect.left / width,
      top: rect.top / height,
      width: rect.width / width,
      height: rect.height / height,
    };
    this.aspect = rect ? rect.width / rect.height : width / height;
    this.lay();
  }
  private aspect = 1;
  private lay(): void {
    const { plate, rect } = this;
    if (!plate) return;
    // from the whole view to the frame in it, then to the part of the plate that fills the frame
    const own = plate.width / plate.height;
    const sx = own > this.aspect ? this.aspect / own : 1;
    const sy = own > this.aspect ? 1 : own / this.aspect;
    const r = rect ?? { left: 0, top: 0, width: 1, height: 1 };
    const bottom = 1 - r.top - r.height;
    plate.texture.repeat.set(sx / r.width, sy / r.height);
    plate.texture.offset.set(0.5 - sx / 2 - (r.left * sx) / r.width, 0.5 - sy / 2 - (bottom * sy) / r.height);
  }
  free(): void {
    this.plate?.texture.dispose();
    this.mesh.geometry.dispose();
    this.mesh.material.dispose();
    this.ground.geometry.dispose();
  }
}

function geometryOf({ positions, normals, indices }: ReturnType<typeof backdropShape>): THREE.BufferGeometry {
  const g = new THREE.BufferGeometry();
  g.setAttribute('position', new THREE.BufferAttribute(positions, 3));
  g.setAttribute('normal', new THREE.BufferAttribute(normals, 3));
  g.setIndex(new THREE.BufferAttribute(indices, 1));
  return g;
}
