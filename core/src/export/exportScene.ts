// A scene document as GLB, with options of Materials as its material variants (KHR_materials_variants): every object
// says what it wears in each. A material whose values an option changes goes as one more material. Animation, skins and
// morph targets are not written yet, and said so.
import { Document, type Material, type Mesh, type Primitive, WebIO } from '@gltf-transform/core';
import { KHRLightsPunctual, KHRMaterialsVariants, Light, type Variant } from '@gltf-transform/extensions';
import {
  type Layer,
  type MaterialNow,
  type ResolvedState,
  SceneIndex,
  materialOf,
  objectTarget,
  resolve,
} from '../looks/index.ts';
import type { Geometry, MeshPart, SceneDocument, SceneLight, SceneNode } from '../scene/index.ts';
import { MATERIAL_EXTENSIONS, MaterialWriter } from './materialWriter.ts';

/** glTF has no lights with an area: they go out as spots. */
const LIGHT_TYPES = {
  sun: Light.Type.DIRECTIONAL!,
  point: Light.Type.POINT!,
  spot: Light.Type.SPOT!,
};

export interface ExportData {
  readonly geometry: (mesh: number) => Promise<Geometry>;
  /** Encoded, as it is stored. */
  readonly image: (blob: string) => Promise<Uint8Array>;
}
export interface ExportResult {
  readonly bytes: Uint8Array;
  /** What is not in it, in words. */
  readonly remarks: readonly string[];
}

const WRITTEN = [KHRLightsPunctual, KHRMaterialsVariants, ...MATERIAL_EXTENSIONS];

/** @param base what holds in all of them. @param variants options of Materials, in order */
export async function exportScene(
  scene: SceneDocument,
  base: readonly Layer[],
  variants: readonly { readonly name: string; readonly layer: Layer }[],
  data: ExportData,
): Promise<ExportResult> {
  const index = new SceneIndex(scene);
  const looks = [resolve(index, base), ...variants.map((v) => resolve(index, [...base, v.layer]))];
  const w = new Writer(scene, data);
  await w.write(
    looks,
    variants.map((v) => v.name),
  );
  const remarks = [
    ...(scene.animation ? ['Its animation is not in the file.'] : []),
    ...(scene.meshes.some((m) => m.deform)
      ? ['Skins and morph targets are not in the file: such meshes are as they are at rest.']
      : []),
  ];
  return { bytes: await new WebIO().registerExtensions(WRITTEN).writeBinary(w.doc), remarks };
}

/** A material as a look has it, and what tells it apart. */
interface Worn {
  readonly now: MaterialNow;
  readonly key: string;
  readonly id: string;
}
function wornOf(now: MaterialNow): Worn {
  const key = JSON.stringify({ ...now, name: '' });
  return { now, key, id: `${now.name}\n${key}` };
}
interface Offered {
  readonly choices: KHRMaterialsVariants;
  readonly variants: readonly Variant[];
  /** Also those in which nothing differs. */
  readonly nameAll: boolean;
}

class Writer {
  readonly doc = new Document();
  private readonly buffer = this.doc.createBuffer();
  private readonly lights = this.doc.createExtension(KHRLightsPunctual);
  private readonly materials: MaterialWriter;
  private readonly geometries = new Map<number, ReturnType<Writer['geometry']>>();
  /** By what they are made of and what they wear in each look: objects that are alike share one. */
  private readonly meshes = new Map<string, Mesh>();
  constructor(
    private readonly scene: SceneDocument,
    private readonly data: ExportData,
  ) {
    this.materials = new MaterialWriter(this.doc, data.image);
  }

  /** @param looks the base, then each variant */
  async write(looks: readonly ResolvedState[], variantNames: readonly string[]): Promise<void> {
    const { doc, scene } = this;
    const root = doc.createScene();
    const choices = variantNames.length ? doc.createExtension(KHRMaterialsVariants) : undefined;
    const variants = choices ? variantNames.map((n) => choices.createVariant(n)) : [];
    const nodes = scene.nodes.map((n) => doc.createNode(n.name).setMatrix([...n.matrix] as never));
    const namesAll = scene.nodes.findIndex((n) => n.parts?.length === 1);
    for (const [i, n] of scene.nodes.entries()) {
      const node = nodes[i]!;
      if (n.parent < 0) root.addChild(node);
      else nodes[n.parent]!.addChild(node);
      if (n.layer !== undefined) node.setExtras({ ...node.getExtras(), layer: n.layer });
      if (n.light !== undefined) this.light(node, scene.lights[n.light]!);
      if (n.camera !== undefined) this.camera(node, n.camera);
      if (!n.parts) continue;
      // a variant that is as the base is is named by one object, or the file would not have it
      node.setMesh(await this.mesh(n, n.parts, looks, choices && { choices, variants, nameAll: i === namesAll }));
    }
  }

  private async mesh(
    n: SceneNode,
    parts: readonly MeshPart[],
    looks: readonly ResolvedState[],
    offered: Offered | undefined,
  ): Promise<Mesh> {
    const worn = parts.map((_, k) => looks.map((s) => wornOf(materialOf(s, this.wears(s, n, k)))));
    const key = JSON.stringify([parts.map((p) => p.mesh), worn.map((w) => w.map((x) => x.id)), offered?.nameAll]);
    const known = this.meshes.get(key);
    if (known) return known;
    const mesh = this.doc.createMesh(n.name);
    this.meshes.set(key, mesh);
    for (const [k, p] of parts.entries()) mesh.addPrimitive(await this.primitive(p, worn[k]!, offered));
    return mesh;
  }

  private async primitive(part: MeshPart, worn: readonly Worn[], offered: Offered | undefined): Promise<Primitive> {
    const { attributes, indices } = await (this.geometries.get(part.mesh) ?? this.remember(part.mesh));
    const [base, ...others] = worn as readonly [Worn, ...Worn[]];
    const primitive = this.doc
      .createPrimitive()
      .setIndices(indices)
      .setMaterial(await this.material(base));
    for (const [name, a] of attributes) primitive.setAttribute(name, a);
    if (!offered) return primitive;
    const { choices, variants, nameAll } = offered;
    const list = choices.createMappingList();
    for (const [v, own] of others.entries()) {
      if (own.id === base.id && !nameAll) continue;
      list.addMapping(
        choices
          .createMapping()
          .setMaterial(await this.material(own))
          .addVariant(variants[v]!),
      );
    }
    if (list.listMappings().length) primitive.setExtension('KHR_materials_variants', list);
    return primitive;
  }
  private material({ now, key }: Worn): Promise<Material> {
    return this.materials.of(now, key);
  }

  private wears(s: ResolvedState, n: SceneNode, part: number): string {
    const own = this.scene.materials[n.parts![part]!.material]!.name;
    const worn = n.parts!.length === 1 ? s.get(objectTarget(n.path), 'object.material') : undefined;
    return typeof worn === 'string' && s.scene.material(worn) ? worn : own;
  }
  private remember(mesh: number) {
    const made = this.geometry(mesh);
    this.geometries.set(mesh, made);
    return made;
  }
  private async geometry(mesh: number) {
    const g = await this.data.geometry(mesh);
    const accessor = (type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4', array: Float32Array | Uint32Array) =>
      this.doc
        .createAccessor()
        .setType(type)
        .setArray(array as never)
        .setBuffer(this.buffer);
    return {
      attributes: [
        ['POSITION', accessor('VEC3', g.positions)],
        ...(g.normals ? [['NORMAL', accessor('VEC3', g.normals)] as const] : []),
        ...(g.uv0 ? [['TEXCOORD_0', accessor('VEC2', g.uv0)] as const] : []),
        ...(g.uv1 ? [['TEXCOORD_1', accessor('VEC2', g.uv1)] as const] : []),
        ...(g.colors ? [['COLOR_0', accessor('VEC4', g.colors)] as const] : []),
      ] as const,
      indices: accessor('SCALAR', g.indices),
    };
  }

  private light(node: ReturnType<Document['createNode']>, l: SceneLight): void {
    if (l.type === 'rectangle' || l.type === 'disc' || l.type === 'ball') {
      node.setExtras({
        ...node.getExtras(),
        variscen_light: {
          type: l.type,
          color: [...l.color],
          nits: l.intensity,
          ...(l.type === 'rectangle' ? { widthM: l.widthM, heightM: l.heightM } : { radiusM: l.radiusM }),
        },
      });
      return;
    }
    const light = this.lights
      .createLight(node.getName())
      .setColor([...l.color])
      .setIntensity(l.intensity)
      .setType(LIGHT_TYPES[l.type]);
    if (l.type === 'spot') light.setInnerConeAngle(l.innerConeRad).setOuterConeAngle(l.outerConeRad);
    if (l.type !== 'sun' && l.radiusM > 0)
      node.setExtras({ ...node.getExtras(), variscen_light: { radiusM: l.radiusM } });
    node.setExtension('KHR_lights_punctual', light);
  }
  private camera(node: ReturnType<Document['createNode']>, at: number): void {
    const c = this.scene.cameras[at]!;
    const aspect = c.widthPx / c.heightPx;
    const camera = this.doc.createCamera(node.getName()).setZNear(c.nearM).setZFar(c.farM);
    if (c.projection === 'perspective')
      camera
        .setType('perspective')
        .setYFov(2 * Math.atan(c.halfHeight))
        .setAspectRatio(aspect);
    else
      camera
        .setType('orthographic')
        .setYMag(c.halfHeight)
        .setXMag(c.halfHeight * aspect);
    node.setCamera(camera).setExtras({
      ...node.getExtras(),
      variscen_camera: {
        widthPx: c.widthPx,
        heightPx: c.heightPx,
        ...(c.focusDistanceM !== undefined && { focusDistanceM: c.focusDistanceM }),
        ...(c.fStop !== undefined && { fStop: c.fStop }),
      },
    });
  }
}
