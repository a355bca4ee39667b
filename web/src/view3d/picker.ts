// Which objects show in a box of the view: every object is drawn in a colour of its own, and the colours in the box are
// read. What is hidden behind others is not in it, which boxes around objects cannot tell.
import * as THREE from 'three';
import { nodesOf } from './drawnObjects.ts';
import type { Point } from './gestures.ts';

export class Picker {
  private readonly target = new THREE.WebGLRenderTarget(1, 1);
  private readonly material = new THREE.ShaderMaterial({
    vertexShader: `
attribute vec3 idColor;
varying vec3 c;
void main() {
  c = idColor;
  gl_Position = projectionMatrix * modelViewMatrix * instanceMatrix * vec4(position, 1.0);
}`,
    fragmentShader: `
varying vec3 c;
void main() {
  gl_FragColor = vec4(c, 1.0);
}`,
    side: THREE.DoubleSide,
  });
  constructor(private readonly renderer: THREE.WebGLRenderer) {}

  /** @returns nodes, in the order of the document. Costs one picture and a read. */
  inBox(objects: THREE.Group, camera: THREE.PerspectiveCamera, a: Point, b: Point): number[] {
    const size = this.renderer.getSize(new THREE.Vector2());
    const left = Math.max(0, Math.round(Math.min(a.x, b.x)));
    const top = Math.max(0, Math.round(Math.min(a.y, b.y)));
    const width = Math.min(size.x, Math.round(Math.max(a.x, b.x))) - left;
    const height = Math.min(size.y, Math.round(Math.max(a.y, b.y))) - top;
    if (width < 1 || height < 1) return [];
    this.target.setSize(size.x, size.y);
    const scene = new THREE.Scene();
    const made: THREE.BufferGeometry[] = [];
    const tone = this.renderer.toneMapping;
    for (const o of objects.children as THREE.InstancedMesh[]) {
      const nodes = nodesOf(o);
      const ids = new Float32Array(nodes.length * 3);
      const geometry = new THREE.BufferGeometry();
      nodes.forEach((n, i) => {
        const id = n + 1;
        ids.set([(id & 255) / 255, ((id >> 8) & 255) / 255, ((id >> 16) & 255) / 255], i * 3);
      });
      geometry.index = o.geometry.index;
      geometry.setAttribute('position', o.geometry.getAttribute('position'));
      geometry.setAttribute('idColor', new THREE.InstancedBufferAttribute(ids, 3));
      const mesh = new THREE.InstancedMesh(geometry, this.material, nodes.length);
      mesh.instanceMatrix = o.instanceMatrix;
      mesh.frustumCulled = false;
      scene.add(mesh);
      made.push(geometry);
    }
    const pixels = new Uint8Array(width * height * 4);
    try {
      this.renderer.toneMapping = THREE.NoToneMapping;
      this.renderer.setRenderTarget(this.target);
      this.renderer.setClearColor(0, 1);
      this.renderer.clear();
      this.renderer.render(scene, camera);
      this.renderer.readRenderTargetPixels(this.target, left, size.y - top - height, width, height, pixels);
    } finally {
      this.renderer.setRenderTarget(null);
      this.renderer.toneMapping = tone;
      for (const g of made) {
        g.index = null;
        g.deleteAttribute('position');
        g.dispose();
      }
    }
    const found = new Set<number>();
    for (let i = 0; i < pixels.length; i += 4) {
      const id = pixels[i]! | (pixels[i + 1]! << 8) | (pixels[i + 2]! << 16);
      if (id) found.add(id - 1);
    }
    return [...found].sort((x, y) => x - y);
  }
  free(): void {
    this.target.dispose();
    this.material.dispose();
  }
}
