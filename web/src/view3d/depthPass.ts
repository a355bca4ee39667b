// What a camera sees as distances along its axis, drawn by the graphics hardware.
import { type CameraSettings, halfHeightOf } from '@variscen/core/scene';
import * as THREE from 'three';

const DEPTH = new THREE.ShaderMaterial({
  vertexShader: `
varying float d;
void main() {
  vec4 p = modelViewMatrix * instanceMatrix * vec4(position, 1.0);
  d = -p.z;
  gl_Position = projectionMatrix * p;
}`,
  fragmentShader: `
varying float d;
void main() {
  gl_FragColor = vec4(d, 0.0, 0.0, 1.0);
}`,
  side: THREE.DoubleSide,
});

/**
 * Metres a pixel, rows from the top; Infinity where nothing is between the camera's planes. Costs one picture and a
 * read.
 */
export function depthPicture(
  renderer: THREE.WebGLRenderer,
  objects: THREE.Group,
  c: CameraSettings,
  widthPx: number,
  heightPx: number,
): Float32Array {
  const camera = new THREE.PerspectiveCamera();
  const half = halfHeightOf(c);
  const wide = (half * c.widthPx) / c.heightPx;
  const scale = c.projection === 'perspective' ? c.nearM : 1;
  const sx = 2 * (c.shiftX ?? 0) * wide;
  const sy = 2 * (c.shiftY ?? 0) * half;
  new THREE.Matrix4().fromArray(c.matrix).decompose(camera.position, camera.quaternion, new THREE.Vector3());
  camera.updateMatrixWorld();
  camera.matrixWorldInverse.copy(camera.matrixWorld).invert();
  if (c.projection === 'perspective')
    camera.projectionMatrix.makePerspective(
      (sx - wide) * scale,
      (sx + wide) * scale,
      (sy + half) * scale,
      (sy - half) * scale,
      c.nearM,
      c.farM,
    );
  else camera.projectionMatrix.makeOrthographic(sx - wide, sx + wide, sy + half, sy - half, c.nearM, c.farM);
  camera.projectionMatrixInverse.copy(camera.projectionMatrix).invert();
  const target = new THREE.WebGLRenderTarget(widthPx, heightPx, { type: THREE.FloatType });
  const scene = new THREE.Scene();
  const out = new Float32Array(widthPx * heightPx * 4);
  const tone = renderer.toneMapping;
  const home = objects.parent;
  try {
    scene.add(objects);
    scene.overrideMaterial = DEPTH;
    renderer.toneMapping = THREE.NoToneMapping;
    renderer.setRenderTarget(target);
    renderer.setClearColor(0, 0);
    renderer.clear();
    renderer.render(scene, camera);
    renderer.readRenderTargetPixels(target, 0, 0, widthPx, heightPx, out);
  } finally {
    renderer.setRenderTarget(null);
    renderer.toneMapping = tone;
    home?.add(objects);
    target.dispose();
  }
  return Float32Array.from({ length: widthPx * heightPx }, (_, i) => {
    const at = ((heightPx - 1 - Math.floor(i / widthPx)) * widthPx + (i % widthPx)) * 4;
    return out[at + 3]! > 0 ? out[at]! : Infinity;
  });
}
