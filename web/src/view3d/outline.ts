// The rim of a selected object (its colour is linear, as all that is drawn is): a shell a little larger than it, of
// which only the edge shows from behind it.
import type { Matrix } from '@variscen/core/scene';
import * as THREE from 'three';
import { aside } from './gradePass.ts';

const OUTLINE = new THREE.ShaderMaterial({
  vertexShader: `
uniform float widthPx;
uniform vec2 size;
void main() {
  vec4 p = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
  vec3 n = normalMatrix * normal;
  vec2 d = normalize((projectionMatrix * vec4(n, 0.0)).xy + vec2(1e-6));
  p.xy += d * widthPx / size * 2.0 * p.w;
  gl_Position = p;
}`,
  fragmentShader: 'void main() { gl_FragColor = vec4(0.577, 0.791, 0.068, 1.0); }',
  uniforms: { widthPx: { value: 2 }, size: { value: new THREE.Vector2(1, 1) } },
  side: THREE.BackSide,
});
aside(OUTLINE);
export function outlineOf(geometry: THREE.BufferGeometry, matrix: Matrix): THREE.Object3D {
  const mesh = new THREE.Mesh(geometry, OUTLINE);
  mesh.matrixAutoUpdate = false;
  mesh.matrix.fromArray(matrix);
  mesh.frustumCulled = false;
  return mesh;
}
/** Pixels of the view, so that rims are as wide in any. */
export const setOutlineView = (widthPx: number, heightPx: number): void => {
  (OUTLINE.uniforms['size']!.value as THREE.Vector2).set(widthPx, heightPx);
};
