// A thin layer over glTF writing: named meshes used many times, groups, materials, lights and cameras.
import { Document, type Material, type Mesh, type Node, type Texture, WebIO } from '@gltf-transform/core';
import {
  KHRLightsPunctual,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsIOR,
  KHRMaterialsTransmission,
  KHRMaterialsVolume,
  Light,
} from '@gltf-transform/extensions';
import { lookAt } from '@variscen/core/scene';
import type { AnyShape } from './solid.ts';
import { PAINTS, paintPng } from './textures.ts';

export type V3 = readonly [number, number, number];
export interface Pose {
  readonly at?: V3;
  /** Turn about Y, degrees, then tilt about X, then roll about Z. */
  readonly turn?: number;
  readonly tilt?: number;
  readonly roll?: number;
  readonly scale?: number | V3;
}
export interface Look {
  readonly color: V3;
  readonly metallic?: number;
  readonly roughness?: number;
  /** One of PAINTS, or a texture that was added. */
  readonly paint?: string;
  readonly roughnessPaint?: keyof typeof PAINTS;
  readonly emission?: V3;
  readonly strength?: number;
  readonly emissionPaint?: keyof typeof PAINTS;
  readonly glass?: boolean;
  readonly twoSided?: boolean;
}

export class Builder {
  readonly doc = new Document();
  private readonly scene = this.doc.createScene('Harvest fair');
  private readonly buffer = this.doc.createBuffer();
  private readonly materials = new Map<string, Material>();
  private readonly textures = new Map<string, Texture>();
  private readonly lights = this.doc.createExtension(KHRLightsPunctual);
  private readonly strength = this.doc.createExtension(KHRMaterialsEmissiveStrength);
  private readonly transmission = this.doc.createExtension(KHRMaterialsTransmission);
  private readonly ior = this.doc.createExtension(KHRMaterialsIOR);
  private readonly volume = this.doc.createExtension(KHRMaterialsVolume);

  constructor(private readonly textureSize: number) {}

  /** A texture by name, made elsewhere. */
  addTexture(name: string, png: Uint8Array): void {
    const image = png as Uint8Array<ArrayBuffer>;
    this.textures.set(name, this.doc.createTexture(name).setMimeType('image/png').setImage(image));
  }
  private texture(name: string): Texture {
    let t = this.textures.get(name);
    if (!t)
      this.textures.set(
        name,
        (t = this.doc
          .createTexture(name)
          .setMimeType('image/png')
          .setImage(paintPng(PAINTS[name]!, this.textureSize) as Uint8Array<ArrayBuffer>)),
      );
    return t;
  }

  material(name: string, look: Look): Material {
    const m = this.doc
      .createMaterial(name)
      .setBaseColorFactor([...look.color, 1])
      .setMetallicFactor(look.metallic ?? 0)
      .setRoughnessFactor(look.roughness ?? 0.6)
      .setDoubleSided(look.twoSided ?? false);
    if (look.paint) m.setBaseColorTexture(this.texture(look.paint));
    if (look.roughnessPaint) m.setMetallicRoughnessTexture(this.texture(look.roughnessPaint));
    if (look.emission) {
      m.setEmissiveFactor([...look.emission]).setExtension(
        'KHR_materials_emissive_strength',
        this.strength.createEmissiveStrength().setEmissiveStrength(look.strength ?? 1),
      );
      if (look.emissionPaint) m.setEmissiveTexture(this.texture(look.emissionPaint));
    }
    if (look.glass) {
      m.setExtension(
        'KHR_materials_transmission',
        this.transmission.createTransmission().setTransmissionFactor(1),
      ).setExtension('KHR_materials_ior', this.ior.createIOR().setIOR(1.5));
      m.setExtension(
        'KHR_materials_volume',
        this.volume
          .createVolume()
          .setThicknessFactor(0.01)
          .setAttenuationDistance(0.25)
          .setAttenuationColor([0.75, 0.92, 0.82]),
      );
    }
    this.materials.set(name, m);
    return m;
  }

  /** A mesh of one or several shapes, each in a material of the given name. */
  mesh(name: string, ...parts: readonly (readonly [AnyShape, string])[]): Mesh {
    const mesh = this.doc.createMesh(name);
    for (const [shape, materialName] of parts) {
      const material = this.materials.get(materialName);
      if (!material) throw new Error(`No material ${materialName}`);
      const accessor = (
        type: 'VEC3' | 'VEC2' | 'SCALAR',
        array: Float32Array<ArrayBuffer> | Uint32Array<ArrayBuffer>,
      ) => this.doc.createAccessor().setType(type).setArray(array).setBuffer(this.buffer);
      mesh.addPrimitive(
        this.doc
          .createPrimitive()
          .setMaterial(material)
          .setIndices(accessor('SCALAR', Uint32Array.from(shape.indices)))
          .setAttribute('POSITION', accessor('VEC3', Float32Array.from(shape.positions)))
          .setAttribute('NORMAL', accessor('VEC3', unitNormals(shape.normals)))
          .setAttribute('TEXCOORD_0', accessor('VEC2', Float32Array.from(shape.uvs))),
      );
    }
    return mesh;
  }

  node(parent: Node | null, name: string, pose: Pose = {}, mesh?: Mesh): Node {
    const s = pose.scale ?? 1;
    const n = this.doc
      .createNode(name)
      .setTranslation([...(pose.at ?? [0, 0, 0])])
      .setRotation(quaternion(pose))
      .setScale(typeof s === 'number' ? [s, s, s] : [...s]);
    if (mesh) n.setMesh(mesh);
    if (parent) parent.addChild(n);
    else this.scene.addChild(n);
    return n;
  }

  point(parent: Node, name: string, at: V3, candela: number, color: V3, radiusM: number): Node {
    const light = this.lights
      .createLight(name)
      .setType(Light.Type.POINT!)
      .setIntensity(candela)
      .setColor([...color]);
    return this.node(parent, name, { at })
      .setExtension('KHR_lights_punctual', light)
      .setExtras({ variscen_light: { radiusM } });
  }
  spot(
    parent: Node,
    name: string,
    at: V3,
    to: V3,
    candela: number,
    color: V3,
    outerDeg: number,
    radiusM: number,
  ): Node {
    const light = this.lights
      .createLight(name)
      .setType(Light.Type.SPOT!)
      .setIntensity(candela)
      .setColor([...color])
      .setOuterConeAngle((outerDeg * Math.PI) / 180)
      .setInnerConeAngle((outerDeg * 0.6 * Math.PI) / 180);
    return this.aimed(parent, name, at, to)
      .setExtension('KHR_lights_punctual', light)
      .setExtras({ variscen_light: { radiusM } });
  }
  sun(parent: Node, name: string, towards: V3, lux: number, color: V3): Node {
    return this.aimed(parent, name, [0, 6, 0], [towards[0], 6 + towards[1], towards[2]]).setExtension(
      'KHR_lights_punctual',
      this.lights
        .createLight(name)
        .setType(Light.Type.DIRECTIONAL!)
        .setIntensity(lux)
        .setColor([...color]),
    );
  }
  rectangle(
    parent: Node,
    name: string,
    at: V3,
    to: V3,
    widthM: number,
    heightM: number,
    nits: number,
    color: V3,
  ): Node {
    return this.aimed(parent, name, at, to).setExtras({
      variscen_light: { type: 'rectangle', widthM, heightM, nits, color: [...color] },
    });
  }
  camera(
    parent: Node,
    name: string,
    at: V3,
    to: V3,
    size: readonly [number, number],
    focalMm: number,
    fStop?: number,
  ): Node {
    const yfov = 2 * Math.atan(((18 / focalMm) * size[1]) / size[0]);
    const focusDistanceM = Math.hypot(at[0] - to[0], at[1] - to[1], at[2] - to[2]);
    const camera = this.doc
      .createCamera(name)
      .setType('perspective')
      .setYFov(yfov)
      .setAspectRatio(size[0] / size[1])
      .setZNear(0.05)
      .setZFar(200);
    return this.aimed(parent, name, at, to)
      .setCamera(camera)
      .setExtras({ variscen_camera: { widthPx: size[0], heightPx: size[1], focusDistanceM, ...(fStop && { fStop }) } });
  }
  private aimed(parent: Node, name: string, at: V3, to: V3): Node {
    return this.node(parent, name).setMatrix(lookAt(at, to) as never);
  }

  write(): Promise<Uint8Array> {
    return new WebIO()
      .registerExtensions([
        KHRLightsPunctual,
        KHRMaterialsEmissiveStrength,
        KHRMaterialsIOR,
        KHRMaterialsTransmission,
        KHRMaterialsVolume,
      ])
      .writeBinary(this.doc);
  }
}

/** The validator wants unit normals; poles of turned shapes have none of their own and get straight up. */
function unitNormals(n: ArrayLike<number>): Float32Array<ArrayBuffer> {
  const out = Float32Array.from(n);
  for (let i = 0; i < out.length; i += 3) {
    const l = Math.hypot(out[i]!, out[i + 1]!, out[i + 2]!);
    if (l < 0.5) {
      out[i] = 0;
      out[i + 1] = 1;
      out[i + 2] = 0;
    } else for (let k = 0; k < 3; k++) out[i + k]! /= l;
  }
  return out;
}
function quaternion({ turn = 0, tilt = 0, roll = 0 }: Pose): [number, number, number, number] {
  const h = Math.PI / 360;
  const [cy, sy, cx, sx, cz, sz] = [
    Math.cos(turn * h),
    Math.sin(turn * h),
    Math.cos(tilt * h),
    Math.sin(tilt * h),
    Math.cos(roll * h),
    Math.sin(roll * h),
  ] as const;
  return [
    cy * sx * cz + sy * cx * sz,
    sy * cx * cz - cy * sx * sz,
    cy * cx * sz - sy * sx * cz,
    cy * cx * cz + sy * sx * sz,
  ];
}

/** Repeatable random numbers in [0, 1). */
export function randomizer(seed: number): () => number {
  let s = seed >>> 0;
  return () => {
    s = (s + 0x6d2b79f5) >>> 0;
    let t = Math.imul(s ^ (s >>> 15), 1 | s);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 2 ** 32;
  };
}
