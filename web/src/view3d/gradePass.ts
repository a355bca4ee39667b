// The look's grade over the real-time view: what is drawn goes into a linear picture first and through the grade onto
// the page, in the order of core/image/grade.ts, so that the view has the tones that the render will have. A LUT is
// interpolated by the graphics hardware, along three axes instead of in tetrahedra. Lines of the interface lie in the
// same picture, since they hide behind objects, and are told by an alpha of 0: no grade touches them (see aside).
import { type Grade, type Lut, NEUTRAL_GRADE, unpackLut, whiteBalance } from '@variscen/core/image';
import { type ResolvedState, gradeOf } from '@variscen/core/looks';
import * as THREE from 'three';
import { asset } from '../api/assets.ts';

const FRAGMENT = `
uniform sampler2D picture;
uniform float gain, contrast, saturation, rolloff, lutSize, lutStrength;
uniform mat3 balance;
uniform vec3 slope, offset, power;
uniform highp sampler3D lut;
varying vec2 at;

vec3 encoded(vec3 c) {
  vec3 curve = 1.055 * pow(max(c, vec3(0.0031308)), vec3(1.0 / 2.4)) - 0.055;
  return mix(12.92 * c, curve, step(vec3(0.0031308), c));
}
vec3 rolled(vec3 c) {
  float knee = 1.0 - 0.7 * rolloff;
  vec3 shoulder = knee + (1.0 - knee) * (1.0 - exp(-(c - knee) / max(1.0 - knee, 1e-6)));
  return mix(c, shoulder, step(vec3(knee), c));
}
vec3 lookedUp(vec3 codes) {
  return texture(lut, (codes * (lutSize - 1.0) + 0.5) / lutSize).rgb;
}
void main() {
  vec4 drawn = texture2D(picture, at);
  vec3 c = max(balance * (max(drawn.rgb, 0.0) * gain), 0.0);
  c = pow(max(c * slope + offset, 0.0), power);
  c = 0.18 * pow(c / 0.18, vec3(contrast));
  float y = dot(c, vec3(0.2126, 0.7152, 0.0722));
  vec3 codes = encoded(min(rolled(max(mix(vec3(y), c, saturation), 0.0)), 1.0));
  if (lutStrength > 0.0) codes = clamp(mix(codes, lookedUp(codes), lutStrength), 0.0, 1.0);
  gl_FragColor = vec4(mix(encoded(clamp(drawn.rgb, 0.0, 1.0)), codes, drawn.a), 1.0);
}`;

/** Marks what a material draws as part of the interface, not of the picture. */
export function aside(material: THREE.Material): void {
  material.blending = THREE.CustomBlending;
  material.blendSrc = THREE.SrcAlphaFactor;
  material.blendDst = THREE.OneMinusSrcAlphaFactor;
  material.blendSrcAlpha = THREE.ZeroFactor;
  material.blendDstAlpha = THREE.ZeroFactor;
}
/** All that is drawn in an object, likewise. */
export const allAside = (o: THREE.Object3D): void =>
  o.traverse((x) => {
    const m = (x as THREE.Mesh).material as THREE.Material | THREE.Material[] | undefined;
    for (const one of m ? [m].flat() : []) aside(one);
  });

const noLut = (): THREE.Data3DTexture => {
  const t = new THREE.Data3DTexture(new Uint8Array(4), 1, 1, 1);
  t.needsUpdate = true;
  return t;
};

export class GradePass {
  private readonly target = new THREE.WebGLRenderTarget(1, 1, {
    type: THREE.HalfFloatType,
    minFilter: THREE.NearestFilter,
    magFilter: THREE.NearestFilter,
  });
  private readonly material = new THREE.ShaderMaterial({
    vertexShader: 'varying vec2 at; void main() { at = uv; gl_Position = vec4(position.xy, 0.0, 1.0); }',
    fragmentShader: FRAGMENT,
    depthTest: false,
    depthWrite: false,
    toneMapped: false,
    uniforms: {
      picture: { value: this.target.texture },
      gain: { value: 1 },
      contrast: { value: 1 },
      saturation: { value: 1 },
      rolloff: { value: 0 },
      lutSize: { value: 1 },
      lutStrength: { value: 0 },
      balance: { value: new THREE.Matrix3() },
      slope: { value: new THREE.Vector3() },
      offset: { value: new THREE.Vector3() },
      power: { value: new THREE.Vector3() },
      lut: { value: noLut() },
    },
  });
  private readonly screen = new THREE.Mesh(new THREE.PlaneGeometry(2, 2), this.material);
  private readonly eye = new THREE.OrthographicCamera(-1, 1, 1, -1, 0, 1);
  private readonly size = new THREE.Vector2();
  private wanted: string | undefined;
  private freed = false;

  constructor(
    private readonly renderer: THREE.WebGLRenderer,
    private readonly changed: () => void,
    private readonly failed: (message: string) => void,
  ) {
    this.screen.frustumCulled = false;
    this.set(NEUTRAL_GRADE);
  }

  show(state: ResolvedState): void {
    this.set(gradeOf(state));
  }

  private set(g: Grade): void {
    const u = this.material.uniforms;
    const set = (name: string, value: number) => {
      u[name]!.value = value;
    };
    const b = whiteBalance(g.whiteKelvin, g.whiteTint);
    set('gain', 2 ** g.exposureEv);
    set('contrast', g.contrast);
    set('saturation', g.saturation);
    set('rolloff', g.rolloff);
    for (const k of ['slope', 'offset', 'power'] as const) (u[k]!.value as THREE.Vector3).set(...g[k]);
    if (b) (u['balance']!.value as THREE.Matrix3).set(...b[0], ...b[1], ...b[2]);
    else (u['balance']!.value as THREE.Matrix3).identity();
    const lut = g.lutStrength > 0 ? g.lut : null;
    set('lutStrength', lut && lut.hash === this.wanted && u['lutSize']!.value === lut.size ? g.lutStrength : 0);
    if (!lut || lut.hash === this.wanted) return;
    this.wanted = lut.hash;
    asset(lut.hash)
      .then((bytes) => {
        if (this.freed || this.wanted !== lut.hash) return;
        (u['lut']!.value as THREE.Data3DTexture).dispose();
        u['lut']!.value = textureOf(unpackLut(new Uint8Array(bytes), lut));
        set('lutSize', lut.size);
        set('lutStrength', g.lutStrength);
        this.changed();
      })
      .catch(() => {
        if (!this.freed) {
          this.wanted = undefined;
          this.failed(`The LUT “${lut.name}” is not on the server. Import it again.`);
        }
      });
  }

  render(scene: THREE.Scene, camera: THREE.Camera): void {
    const { renderer, size } = this;
    renderer.getDrawingBufferSize(size);
    if (this.target.width !== size.x || this.target.height !== size.y) this.target.setSize(size.x, size.y);
    renderer.setRenderTarget(this.target);
    renderer.render(scene, camera);
    renderer.setRenderTarget(null);
    renderer.render(this.screen, this.eye);
  }

  free(): void {
    this.freed = true;
    this.target.dispose();
    this.material.dispose();
    this.screen.geometry.dispose();
    (this.material.uniforms['lut']!.value as THREE.Data3DTexture).dispose();
  }
}

function textureOf({ size, data }: Lut): THREE.Data3DTexture {
  const half = new Uint16Array(size ** 3 * 4);
  const one = THREE.DataUtils.toHalfFloat(1);
  for (let i = 0; i < size ** 3; i++) {
    for (let k = 0; k < 3; k++)
      half[i * 4 + k] = THREE.DataUtils.toHalfFloat(Math.min(60_000, Math.max(-60_000, data[i * 3 + k]!)));
    half[i * 4 + 3] = one;
  }
  const t = new THREE.Data3DTexture(half, size, size, size);
  t.type = THREE.HalfFloatType;
  t.minFilter = THREE.LinearFilter;
  t.magFilter = THREE.LinearFilter;
  t.needsUpdate = true;
  return t;
}
