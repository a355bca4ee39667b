// A scene document as GLB, with options of Materials as its material variants (KHR_materials_variants): every object
// says what it wears in each. A material whose values an option changes goes as one more material. Animation, skins and
// morph targets are not written yet, and said so.
import { Document, type Material, type Texture, type TextureInfo, WebIO } from '@gltf-transform/core';
import {
  KHRLightsPunctual,
  KHRMaterialsAnisotropy,
  KHRMaterialsClearcoat,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsIOR,
  KHRMaterialsIridescence,
  KHRMaterialsSheen,
  KHRMaterialsSpecular,
  KHRMaterialsTransmission,
  KHRMaterialsUnlit,
  KHRMaterialsVariants,
  KHRMaterialsVolume,
  KHRTextureTransform,
  Light,
  type Mapping,
} from '@gltf-transform/extensions';
import {
  type Layer,
  type LaidMap,
  type MaterialNow,
  type ResolvedState,
  SceneIndex,
  materialOf,
  objectTarget,
  resolve,
} from '../looks/index.ts';
import type { Geometry, SceneDocument, SceneLight, SceneNode } from '../scene/index.ts';

/** glTF has no lights with an area: they go out as spots. */
const LIGHT_TYPES = {
  sun: Light.Type.DIRECTIONAL!,
  point: Light.Type.POINT!,
  spot: Light.Type.SPOT!,
  rectangle: Light.Type.SPOT!,
  disc: Light.Type.SPOT!,
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

const WRITTEN = [
  KHRLightsPunctual,
  KHRMaterialsAnisotropy,
  KHRMaterialsClearcoat,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsIOR,
  KHRMaterialsIridescence,
  KHRMaterialsSheen,
  KHRMaterialsSpecular,
  KHRMaterialsTransmission,
  KHRMaterialsUnlit,
  KHRMaterialsVariants,
  KHRMaterialsVolume,
  KHRTextureTransform,
];
const WRAP = { repeat: 10497, clamp: 33071, mirror: 33648 } as const;

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

class Writer {
  readonly doc = new Document();
  private readonly buffer = this.doc.createBuffer();
  private readonly lights = this.doc.createExtension(KHRLightsPunctual);
  private readonly transforms = this.doc.createExtension(KHRTextureTransform);
  private readonly materials = new Map<string, Promise<Material>>();
  private readonly names = new Set<string>();
  private readonly textures = new Map<string, Promise<Texture>>();
  private readonly geometries = new Map<number, ReturnType<Writer['geometry']>>();
  constructor(
    private readonly scene: SceneDocument,
    private readonly data: ExportData,
  ) {}

  async write(looks: readonly ResolvedState[], variantNames: readonly string[]): Promise<void> {
    const { doc, scene } = this;
    const root = doc.createScene();
    const choices = variantNames.length ? doc.createExtension(KHRMaterialsVariants) : undefined;
    const variants = variantNames.map((n) => choices!.createVariant(n));
    const nodes = scene.nodes.map((n) => doc.createNode(n.name).setMatrix([...n.matrix] as never));
    for (const [i, n] of scene.nodes.entries()) {
      const node = nodes[i]!;
      if (n.parent < 0) root.addChild(node);
      else nodes[n.parent]!.addChild(node);
      if (n.layer !== undefined) node.setExtras({ ...node.getExtras(), layer: n.layer });
      if (n.light !== undefined) this.light(node, scene.lights[n.light]!);
      if (n.camera !== undefined) this.camera(node, n.camera);
      if (!n.parts) continue;
      const mesh = doc.createMesh(n.name);
      for (const [k, p] of n.parts.entries()) {
        const { attributes, indices } = await (this.geometries.get(p.mesh) ?? this.remember(p.mesh));
        const worn = looks.map((s) => materialOf(s, this.wears(s, n, k)));
        const keys = worn.map((m) => JSON.stringify({ ...m, name: '' }));
        const primitive = doc
          .createPrimitive()
          .setIndices(indices)
          .setMaterial(await this.material(worn[0]!, keys[0]!));
        for (const [name, a] of attributes) primitive.setAttribute(name, a);
        const mappings: Mapping[] = [];
        for (const [v, variant] of variants.entries())
          if (keys[v + 1] !== keys[0] || worn[v + 1]!.name !== worn[0]!.name)
            mappings.push(
              choices!
                .createMapping()
                .setMaterial(await this.material(worn[v + 1]!, keys[v + 1]!))
                .addVariant(variant),
            );
        if (mappings.length) {
          const list = choices!.createMappingList();
          for (const m of mappings) list.addMapping(m);
          primitive.setExtension('KHR_materials_variants', list);
        }
        mesh.addPrimitive(primitive);
      }
      node.setMesh(mesh);
    }
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

  private material(m: MaterialNow, key: string): Promise<Material> {
    const id = `${m.name}\n${key}`;
    const known = this.materials.get(id);
    if (known) return known;
    let name = m.name;
    for (let k = 2; this.names.has(name); k++) name = `${m.name} (${k})`;
    this.names.add(name);
    const made = this.makeMaterial(m, name);
    this.materials.set(id, made);
    return made;
  }
  private async makeMaterial(m: MaterialNow, name: string): Promise<Material> {
    const { doc } = this;
    const l = m.layers ?? {};
    const out = doc
      .createMaterial(name)
      .setBaseColorFactor([...m.baseColor, l.alphaMode ? (l.alpha ?? 1) : 1])
      .setMetallicFactor(m.metallic)
      .setRoughnessFactor(m.roughness)
      .setEmissiveFactor([...m.emissionColor])
      .setNormalScale(m.normalScale)
      .setDoubleSided(m.doubleSided);
    if (l.alphaMode) out.setAlphaMode(l.alphaMode === 'mask' ? 'MASK' : 'BLEND').setAlphaCutoff(l.alphaCutoff ?? 0.5);
    const put = async (slot: keyof MaterialNow['maps'], set: (t: Texture) => void, info: () => TextureInfo | null) => {
      const map = m.maps[slot];
      if (map) {
        set(await this.texture(map));
        this.lay(info(), map);
      }
    };
    await put(
      'base',
      (t) => out.setBaseColorTexture(t),
      () => out.getBaseColorTextureInfo(),
    );
    await put(
      'metallicRoughness',
      (t) => out.setMetallicRoughnessTexture(t),
      () => out.getMetallicRoughnessTextureInfo(),
    );
    await put(
      'normal',
      (t) => out.setNormalTexture(t),
      () => out.getNormalTextureInfo(),
    );
    await put(
      'emission',
      (t) => out.setEmissiveTexture(t),
      () => out.getEmissiveTextureInfo(),
    );
    if (m.emissionStrength !== 1)
      out.setExtension(
        'KHR_materials_emissive_strength',
        doc
          .createExtension(KHRMaterialsEmissiveStrength)
          .createEmissiveStrength()
          .setEmissiveStrength(m.emissionStrength),
      );
    if (m.ior !== 1.5)
      out.setExtension(
        'KHR_materials_ior',
        doc
          .createExtension(KHRMaterialsIOR)
          .createIOR()
          .setIOR(m.ior >= 1e4 ? 0 : m.ior),
      );
    if (m.specular !== 1 || l.specularColor || m.maps.specular || m.maps.specularColor) {
      const s = doc.createExtension(KHRMaterialsSpecular).createSpecular().setSpecularFactor(m.specular);
      if (l.specularColor) s.setSpecularColorFactor([...l.specularColor]);
      out.setExtension('KHR_materials_specular', s);
      await put(
        'specular',
        (t) => s.setSpecularTexture(t),
        () => s.getSpecularTextureInfo(),
      );
      await put(
        'specularColor',
        (t) => s.setSpecularColorTexture(t),
        () => s.getSpecularColorTextureInfo(),
      );
    }
    if (m.transmission > 0 || m.maps.transmission) {
      const x = doc
        .createExtension(KHRMaterialsTransmission)
        .createTransmission()
        .setTransmissionFactor(m.transmission);
      out.setExtension('KHR_materials_transmission', x);
      await put(
        'transmission',
        (t) => x.setTransmissionTexture(t),
        () => x.getTransmissionTextureInfo(),
      );
    }
    if (m.solid) {
      const v = doc
        .createExtension(KHRMaterialsVolume)
        .createVolume()
        .setThicknessFactor(1)
        .setAttenuationColor([...m.attenuationColor]);
      if (m.attenuationDistanceM !== null) v.setAttenuationDistance(m.attenuationDistanceM);
      out.setExtension('KHR_materials_volume', v);
    }
    if (l.coat) {
      const c = doc
        .createExtension(KHRMaterialsClearcoat)
        .createClearcoat()
        .setClearcoatFactor(l.coat)
        .setClearcoatRoughnessFactor(l.coatRoughness ?? 0)
        .setClearcoatNormalScale(l.coatNormalScale ?? 1);
      out.setExtension('KHR_materials_clearcoat', c);
      await put(
        'coat',
        (t) => c.setClearcoatTexture(t),
        () => c.getClearcoatTextureInfo(),
      );
      await put(
        'coatRoughness',
        (t) => c.setClearcoatRoughnessTexture(t),
        () => c.getClearcoatRoughnessTextureInfo(),
      );
      await put(
        'coatNormal',
        (t) => c.setClearcoatNormalTexture(t),
        () => c.getClearcoatNormalTextureInfo(),
      );
    }
    if (l.sheen) {
      const s = doc
        .createExtension(KHRMaterialsSheen)
        .createSheen()
        .setSheenColorFactor([...l.sheen])
        .setSheenRoughnessFactor(l.sheenRoughness ?? 0);
      out.setExtension('KHR_materials_sheen', s);
      await put(
        'sheen',
        (t) => s.setSheenColorTexture(t),
        () => s.getSheenColorTextureInfo(),
      );
      await put(
        'sheenRoughness',
        (t) => s.setSheenRoughnessTexture(t),
        () => s.getSheenRoughnessTextureInfo(),
      );
    }
    if (l.anisotropy) {
      const a = doc
        .createExtension(KHRMaterialsAnisotropy)
        .createAnisotropy()
        .setAnisotropyStrength(l.anisotropy)
        .setAnisotropyRotation(l.anisotropyTurnRad ?? 0);
      out.setExtension('KHR_materials_anisotropy', a);
      await put(
        'anisotropy',
        (t) => a.setAnisotropyTexture(t),
        () => a.getAnisotropyTextureInfo(),
      );
    }
    if (l.iridescence) {
      const i = doc
        .createExtension(KHRMaterialsIridescence)
        .createIridescence()
        .setIridescenceFactor(l.iridescence)
        .setIridescenceIOR(l.iridescenceIor ?? 1.3)
        .setIridescenceThicknessMinimum(l.iridescenceNm?.[0] ?? 100)
        .setIridescenceThicknessMaximum(l.iridescenceNm?.[1] ?? 400);
      out.setExtension('KHR_materials_iridescence', i);
      await put(
        'iridescence',
        (t) => i.setIridescenceTexture(t),
        () => i.getIridescenceTextureInfo(),
      );
      await put(
        'iridescenceThickness',
        (t) => i.setIridescenceThicknessTexture(t),
        () => i.getIridescenceThicknessTextureInfo(),
      );
    }
    if (l.unlit) out.setExtension('KHR_materials_unlit', doc.createExtension(KHRMaterialsUnlit).createUnlit());
    return out;
  }
  private texture({ texture: t }: LaidMap): Promise<Texture> {
    let known = this.textures.get(t.blob);
    if (!known)
      this.textures.set(
        t.blob,
        (known = this.data.image(t.blob).then((bytes) =>
          this.doc
            .createTexture(t.name)
            .setMimeType(t.mediaType)
            .setImage(bytes as Uint8Array<ArrayBuffer>),
        )),
      );
    return known;
  }
  private lay(info: TextureInfo | null, map: LaidMap): void {
    if (!info) return;
    info
      .setTexCoord(map.uvSet)
      .setWrapS(WRAP[map.wrapS] as never)
      .setWrapT(WRAP[map.wrapT] as never);
    const [a, b, x, c, d, y] = map.matrix;
    if (a === 1 && b === 0 && c === 0 && d === 1 && x === 0 && y === 0) return;
    // offset · rotation · scale: the matrix is [cos·sx, sin·sy, x, −sin·sx, cos·sy, y]
    info.setExtension(
      'KHR_texture_transform',
      this.transforms
        .createTransform()
        .setOffset([x, y])
        .setRotation(Math.atan2(-c, a))
        .setScale([Math.hypot(a, c), Math.hypot(b, d)]),
    );
  }

  private light(node: ReturnType<Document['createNode']>, l: SceneLight): void {
    if (l.type === 'rectangle' || l.type === 'disc') {
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
