// Simple solids with normals and texture coordinates, in metres. Segment counts are arguments, so that one scene comes
// in two weights.

export interface Shape {
  readonly positions: number[];
  readonly normals: number[];
  readonly uvs: number[];
  readonly indices: number[];
}
type V3 = readonly [number, number, number];

const empty = (): Shape => ({ positions: [], normals: [], uvs: [], indices: [] });

/** Grid of (nu+1) × (nv+1) points; normals by finite differences of the surface, outward where u × v points outward. */
function surface(nu: number, nv: number, at: (u: number, v: number) => V3): Shape {
  const s = empty();
  const e = 1e-4;
  for (let j = 0; j <= nv; j++)
    for (let i = 0; i <= nu; i++) {
      const u = i / nu;
      const v = j / nv;
      const p = at(u, v);
      const uv = Math.min(u, 1 - e);
      const vv = Math.min(Math.max(v, e), 1 - e);
      const a = at(uv + e, vv);
      const b = at(uv, vv);
      const c = at(uv, vv + e);
      const du = [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
      const dv = [c[0] - b[0], c[1] - b[1], c[2] - b[2]];
      const n = [
        du[1]! * dv[2]! - du[2]! * dv[1]!,
        du[2]! * dv[0]! - du[0]! * dv[2]!,
        du[0]! * dv[1]! - du[1]! * dv[0]!,
      ];
      const l = Math.hypot(n[0]!, n[1]!, n[2]!) || 1;
      s.positions.push(...p);
      s.normals.push(n[0]! / l, n[1]! / l, n[2]! / l);
      s.uvs.push(u, 1 - v);
    }
  for (let j = 0; j < nv; j++)
    for (let i = 0; i < nu; i++) {
      const a = j * (nu + 1) + i;
      const b = a + nu + 1;
      s.indices.push(a, a + 1, b + 1, a, b + 1, b);
    }
  return s;
}

/** A profile of [radius, height] from bottom to top turned about Y; smoothed by Catmull–Rom between its points. */
export function lathe(profile: readonly (readonly [number, number])[], around: number, along: number): Shape {
  const n = profile.length - 1;
  const at = (t: number): [number, number] => {
    const x = Math.min(t * n, n - 1e-9);
    const i = Math.floor(x);
    const f = x - i;
    const p = (k: number) => profile[Math.min(n, Math.max(0, k))]!;
    return [0, 1].map((c) => {
      const [a, b, d, e] = [p(i - 1)[c]!, p(i)[c]!, p(i + 1)[c]!, p(i + 2)[c]!];
      return 0.5 * (2 * b + (d - a) * f + (2 * a - 5 * b + 4 * d - e) * f * f + (3 * b - a - 3 * d + e) * f * f * f);
    }) as [number, number];
  };
  return surface(around, along, (u, v) => {
    const [r, y] = at(v);
    const a = -u * 2 * Math.PI;
    return [Math.max(0, r) * Math.cos(a), y, Math.max(0, r) * Math.sin(a)];
  });
}

/** A tube of varying radius along a path of points. */
export function tube(path: readonly V3[], radius: (t: number) => number, around: number, along: number): Shape {
  const n = path.length - 1;
  const at = (t: number): V3 => {
    const x = Math.min(Math.max(t, 0) * n, n - 1e-9);
    const i = Math.floor(x);
    const f = x - i;
    const s = f * f * (3 - 2 * f) * 0.3 + f * 0.7;
    const a = path[i]!;
    const b = path[i + 1]!;
    return [a[0] + (b[0] - a[0]) * s, a[1] + (b[1] - a[1]) * s, a[2] + (b[2] - a[2]) * s];
  };
  return surface(around, along, (u, v) => {
    const p = at(v);
    const q = at(v + 0.01);
    const o = at(v - 0.01);
    const d = norm([q[0] - o[0], q[1] - o[1], q[2] - o[2]]);
    const side = norm(cross(d, Math.abs(d[2]) < 0.9 ? [0, 0, 1] : [1, 0, 0]));
    const up = cross(side, d);
    const a = -u * 2 * Math.PI;
    const r = radius(v);
    return [
      p[0] + r * (side[0] * Math.cos(a) + up[0] * Math.sin(a)),
      p[1] + r * (side[1] * Math.cos(a) + up[1] * Math.sin(a)),
      p[2] + r * (side[2] * Math.cos(a) + up[2] * Math.sin(a)),
    ];
  });
}
const cross = (a: V3, b: V3): V3 => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
const norm = (a: V3): V3 => {
  const l = Math.hypot(...a) || 1;
  return [a[0] / l, a[1] / l, a[2] / l];
};

/** Box centred on x and z, standing on y = 0. Texture repeats every `tile` metres. */
export function box(w: number, h: number, d: number, tile = 1): Shape {
  const s = empty();
  const x = w / 2;
  const z = d / 2;
  const faces: [V3, V3, V3, number, number][] = [
    [[-x, 0, z], [w, 0, 0], [0, h, 0], w, h],
    [[x, 0, -z], [-w, 0, 0], [0, h, 0], w, h],
    [[x, 0, z], [0, 0, -d], [0, h, 0], d, h],
    [[-x, 0, -z], [0, 0, d], [0, h, 0], d, h],
    [[-x, h, z], [w, 0, 0], [0, 0, -d], w, d],
    [[-x, 0, -z], [w, 0, 0], [0, 0, d], w, d],
  ];
  for (const [o, u, v, lu, lv] of faces) {
    const n = norm(cross(u, v));
    const first = s.positions.length / 3;
    for (const [a, b] of [
      [0, 0],
      [1, 0],
      [1, 1],
      [0, 1],
    ] as const) {
      s.positions.push(o[0] + u[0] * a + v[0] * b, o[1] + u[1] * a + v[1] * b, o[2] + u[2] * a + v[2] * b);
      s.normals.push(...n);
      s.uvs.push((a * lu) / tile, ((1 - b) * lv) / tile);
    }
    s.indices.push(first, first + 1, first + 2, first, first + 2, first + 3);
  }
  return s;
}

/** Rounded block of half sizes a, b, c about the origin; e = 1 is an ellipsoid, smaller is boxier. */
export function pebble(
  a: number,
  b: number,
  c: number,
  e: number,
  around: number,
  along: number,
  halfOnly = false,
): Shape {
  const pow = (x: number) => Math.sign(x) * Math.abs(x) ** e;
  return surface(around, along, (u, v) => {
    const p = -u * 2 * Math.PI;
    const t = (halfOnly ? v / 2 : v - 0.5) * Math.PI;
    return [a * pow(Math.cos(t)) * pow(Math.cos(p)), b * pow(Math.sin(t)), c * pow(Math.cos(t)) * pow(Math.sin(p))];
  });
}

/** A roof tile: a shallow trough along Z with thickness, its low end at +Z. */
export function roofTile(w: number, l: number, around: number): Shape {
  return merge([
    surface(around, 4, (u, v) => {
      const a = (u - 0.5) * Math.PI * 0.9;
      return [(Math.sin(a) * w) / 2, Math.cos(a) * w * 0.28 - v * 0.01, (0.5 - v) * l];
    }),
    surface(around, 4, (u, v) => {
      const a = (0.5 - u) * Math.PI * 0.9;
      return [(Math.sin(a) * w * 0.86) / 2, Math.cos(a) * w * 0.22 - v * 0.01, (0.5 - v) * l];
    }),
    surface(around, 1, (u, v) => {
      const a = (u - 0.5) * Math.PI * 0.9;
      const k = 1 - 0.14 * (1 - v);
      const y = 0.28 - 0.06 * (1 - v);
      return [(Math.sin(a) * w * k) / 2, Math.cos(a) * w * y, 0.5 * l];
    }),
  ]);
}

/** Flat pointed leaf in XZ, tip towards +Z, bent along its middle. */
export const leaf = (w: number, l: number): Shape =>
  surface(2, 4, (u, v) => {
    const half = (w / 2) * Math.sin(Math.PI * Math.min(0.98, Math.max(0.02, v))) ** 0.8;
    const x = (u - 0.5) * 2 * half;
    return [x, Math.abs(x) * 0.35 - v * v * 0.25 * l, v * l];
  });

/** A cloth over [0,1]² given by a function. */
export const cloth = (nu: number, nv: number, at: (u: number, v: number) => V3): Shape => surface(nu, nv, at);

/** Triangle flag hanging from y = 0. */
export const pennant = (w: number, h: number): Shape => ({
  positions: [-w / 2, 0, 0, 0, -h, 0, w / 2, 0, 0],
  normals: [0, 0, 1, 0, 0, 1, 0, 0, 1],
  uvs: [0, 0, 0.5, 1, 1, 0],
  indices: [0, 1, 2],
});

/** Upright rectangle in XY, facing +Z, standing on y = 0. */
export const panel = (w: number, h: number): Shape => ({
  positions: [-w / 2, 0, 0, w / 2, 0, 0, w / 2, h, 0, -w / 2, h, 0],
  normals: [0, 0, 1, 0, 0, 1, 0, 0, 1, 0, 0, 1],
  uvs: [0, 1, 1, 1, 1, 0, 0, 0],
  indices: [0, 1, 2, 0, 2, 3],
});

/** Prism with a triangular cross-section (a gable): width w, height h, depth d, standing on y = 0. */
export function gable(w: number, h: number, d: number): Shape {
  const x = w / 2;
  const z = d / 2;
  const s = empty();
  const face = (...p: V3[]) => {
    const first = s.positions.length / 3;
    const n = norm(
      cross(
        [p[1]![0] - p[0]![0], p[1]![1] - p[0]![1], p[1]![2] - p[0]![2]],
        [p[2]![0] - p[0]![0], p[2]![1] - p[0]![1], p[2]![2] - p[0]![2]],
      ),
    );
    p.forEach((q) => {
      s.positions.push(...q);
      s.normals.push(...n);
      s.uvs.push(q[0] + q[2], q[1]);
    });
    for (let i = 2; i < p.length; i++) s.indices.push(first, first + i - 1, first + i);
  };
  face([-x, 0, z], [x, 0, z], [0, h, z]);
  face([x, 0, -z], [-x, 0, -z], [0, h, -z]);
  face([x, 0, z], [x, 0, -z], [0, h, -z], [0, h, z]);
  face([-x, 0, -z], [-x, 0, z], [0, h, z], [0, h, -z]);
  return s;
}

export function merge(shapes: readonly Shape[]): Shape {
  const out = empty();
  for (const s of shapes) {
    const first = out.positions.length / 3;
    for (const x of s.positions) out.positions.push(x);
    for (const x of s.normals) out.normals.push(x);
    for (const x of s.uvs) out.uvs.push(x);
    for (const i of s.indices) out.indices.push(i + first);
  }
  return out;
}
export function moved(s: Shape, x: number, y: number, z: number): Shape {
  return { ...s, positions: s.positions.map((p, i) => p + [x, y, z][i % 3]!) };
}
