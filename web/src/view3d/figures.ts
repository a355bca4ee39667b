// Cameras and lights as figures in the view, of our own drawing: a camera is an open wedge with its frame and a short
// tick above it, a light a ring whose spokes say its kind. Lines only, a few pixels of a click wide to be hit.
import type { Matrix, SceneLight } from '@variscen/core/scene';
import * as THREE from 'three';
import { aside } from './gradePass.ts';

export interface ShownCamera {
  readonly id: string;
  readonly matrix: Matrix;
  /** Tangents of half its angles. */
  readonly halfWidth: number;
  readonly halfHeight: number;
  readonly orthographic: boolean;
}
export interface ShownLight {
  readonly node: number;
  readonly light: SceneLight;
  readonly matrix: Matrix;
  readonly on: boolean;
}
type Hit =
  | { readonly kind: 'camera'; readonly id: string }
  | { readonly kind: 'light'; readonly node: number; readonly point: [number, number, number] };

const HIT_PX = 9;

export class Figures {
  readonly group = new THREE.Group();
  private readonly lines = {
    cameras: line('#d6d6d6', 0.75),
    lights: line('#f2c14e', 0.8),
    dark: line('#8a8a8a', 0.6),
    selected: line('#c8e64a', 1),
  };
  private places: { point: THREE.Vector3; hit: Hit }[] = [];
  private cameraPlaces: { point: THREE.Vector3; hit: Hit }[] = [];
  private size = 1;

  constructor() {
    for (const l of Object.values(this.lines)) this.group.add(l);
  }

  cameras(cameras: readonly ShownCamera[], size: number): void {
    const points: number[] = [];
    this.cameraPlaces = [];
    for (const c of cameras) {
      const m = new THREE.Matrix4().fromArray(c.matrix);
      const d = size;
      const w = c.orthographic ? d * 0.4 : c.halfWidth * d;
      const h = c.orthographic ? d * 0.4 * (c.halfHeight / c.halfWidth) : c.halfHeight * d;
      const eye: P = [0, 0, 0];
      const corners: P[] = [
        [-w, -h, -d],
        [w, -h, -d],
        [w, h, -d],
        [-w, h, -d],
      ];
      const segments: [P, P][] = [
        ...corners.map((a, i): [P, P] => [a, corners[(i + 1) % 4]!]),
        ...corners.map((a): [P, P] => [c.orthographic ? [a[0], a[1], 0] : eye, a]),
        [
          [0, h, -d],
          [0, h * 1.35, -d],
        ],
      ];
      push(points, m, segments);
      this.cameraPlaces.push(
        { point: new THREE.Vector3().setFromMatrixPosition(m), hit: { kind: 'camera', id: c.id } },
        { point: new THREE.Vector3(0, 0, -d).applyMatrix4(m), hit: { kind: 'camera', id: c.id } },
      );
    }
    set(this.lines.cameras, points);
  }

  lights(lights: readonly ShownLight[], sceneSize: number): void {
    this.size = Math.min(0.12, Math.max(sceneSize * 0.006, 1e-4));
    const bright: number[] = [];
    const dark: number[] = [];
    this.places = [];
    for (const l of lights) {
      const m = rigid(l.matrix);
      push(l.on ? bright : dark, m, lightFigure(l.light, this.size));
      const point = new THREE.Vector3().setFromMatrixPosition(m);
      this.places.push({ point, hit: { kind: 'light', node: l.node, point: point.toArray() } });
    }
    set(this.lines.lights, bright);
    set(this.lines.dark, dark);
  }
  selectedLights(matrices: readonly Matrix[]): void {
    const points: number[] = [];
    for (const m of matrices) push(points, rigid(m), ring(this.size * 2, 24));
    set(this.lines.selected, points);
  }

  /** The figure under a point of the view, the nearest to it in pixels. */
  at(x: number, y: number, width: number, height: number, camera: THREE.Camera): Hit | undefined {
    let best: Hit | undefined;
    let nearest = HIT_PX;
    for (const { point, hit } of [...this.places, ...this.cameraPlaces]) {
      const p = point.clone().project(camera);
      if (p.z < -1 || p.z > 1) continue;
      const d = Math.hypot(((p.x + 1) / 2) * width - x, ((1 - p.y) / 2) * height - y);
      if (d < nearest) {
        nearest = d;
        best = hit;
      }
    }
    return best;
  }

  free(): void {
    for (const l of Object.values(this.lines)) {
      l.geometry.dispose();
      (l.material as THREE.Material).dispose();
    }
  }
}

type P = [number, number, number];
const line = (color: string, opacity: number): THREE.LineSegments => {
  const l = new THREE.LineSegments(
    new THREE.BufferGeometry(),
    new THREE.LineBasicMaterial({ color, transparent: true, opacity, depthTest: false, toneMapped: false }),
  );
  aside(l.material);
  l.frustumCulled = false;
  l.renderOrder = 10;
  return l;
};
function set(l: THREE.LineSegments, points: readonly number[]): void {
  l.geometry.dispose();
  l.geometry = new THREE.BufferGeometry();
  l.geometry.setAttribute('position', new THREE.Float32BufferAttribute(points, 3));
  l.visible = points.length > 0;
}
function push(out: number[], m: THREE.Matrix4, segments: readonly (readonly [P, P])[]): void {
  for (const pair of segments) for (const p of pair) out.push(...new THREE.Vector3(...p).applyMatrix4(m).toArray());
}
/** Place and direction without scale, so that figures keep their size. */
function rigid(matrix: Matrix): THREE.Matrix4 {
  const m = new THREE.Matrix4().fromArray(matrix);
  const position = new THREE.Vector3();
  const turn = new THREE.Quaternion();
  m.decompose(position, turn, new THREE.Vector3());
  return new THREE.Matrix4().compose(position, turn, new THREE.Vector3(1, 1, 1));
}
function ring(r: number, n: number, z = 0): [P, P][] {
  const at = (i: number): P => [r * Math.cos((2 * Math.PI * i) / n), r * Math.sin((2 * Math.PI * i) / n), z];
  return Array.from({ length: n }, (_, i) => [at(i), at(i + 1)]);
}
/** A stick along which it shines, so long. */
const stick = (length: number): [P, P][] => [
  [
    [0, 0, 0],
    [0, 0, -length],
  ],
];
/** Panels in their own size. @param s of figures that have none */
function lightFigure(light: SceneLight, s: number): [P, P][] {
  switch (light.type) {
    case 'sun':
      return [
        ...ring(s, 16),
        ...[0, 1, 2].map((i): [P, P] => {
          const a = (2 * Math.PI * i) / 3;
          const x = s * Math.cos(a);
          const y = s * Math.sin(a);
          return [
            [x, y, 0],
            [x, y, -s * 4],
          ];
        }),
      ];
    case 'point':
      return [...ring(s, 12), ...spokes(s, s * 1.8)];
    case 'ball':
      return [...ring(light.radiusM, 24), ...spokes(light.radiusM, light.radiusM + s * 0.8)];
    case 'spot':
      return [
        ...ring(s * 0.5, 12),
        ...ring(s * 1.3, 16, -s * 2.4),
        [
          [s * 0.5, 0, 0],
          [s * 1.3, 0, -s * 2.4],
        ],
        [
          [-s * 0.5, 0, 0],
          [-s * 1.3, 0, -s * 2.4],
        ],
      ];
    case 'disc':
      return [...ring(light.radiusM, 32), ...stick(s * 2)];
    case 'rectangle':
      return [...frame(light.widthM / 2, light.heightM / 2), ...stick(s * 2)];
  }
}
function frame(x: number, y: number): [P, P][] {
  const corners: P[] = [
    [-x, -y, 0],
    [x, -y, 0],
    [x, y, 0],
    [-x, y, 0],
  ];
  return corners.map((a, i): [P, P] => [a, corners[(i + 1) % 4]!]);
}
/** Up, down and to both sides. */
const spokes = (from: number, to: number): [P, P][] =>
  [0, 1, 2, 3].map((k): [P, P] => {
    const x = [1, 0, -1, 0][k]!;
    const y = [0, 1, 0, -1][k]!;
    return [
      [x * from, y * from, 0],
      [x * to, y * to, 0],
    ];
  });
