// Materials with their layers and textures, each once.
import type { Document, Material, Texture, TextureInfo } from '@gltf-transform/core';
import {
  EXTTextureAVIF,
  EXTTextureWebP,
  KHRMaterialsAnisotropy,
  KHRMaterialsClearcoat,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsIOR,
  KHRMaterialsIridescence,
  KHRMaterialsSheen,
  KHRMaterialsSpecular,
  KHRMaterialsTransmission,
  KHRMaterialsUnlit,
  KHRMaterialsVolume,
  KHRTextureTransform,
} from '@gltf-transform/extensions';
import type { LaidMap, MaterialNow } from '../looks/index.ts';

export const MATERIAL_EXTENSIONS = [
  EXTTextureAVIF,
  EXTTextureWebP,
  KHRMaterialsAnisotropy,
  KHRMaterialsClearcoat,
  KHRMaterialsEmissiveStrength,
  KHRMaterialsIOR,
  KHRMaterialsIridescence,
  KHRMaterialsSheen,
  KHRMaterialsSpecular,
  KHRMaterialsTransmission,
  KHRMaterialsUnlit,
  KHRMaterialsVolume,
  KHRTextureTransform,
];
const WRAP = { repeat: 10497, clamp: 33071, mirror: 33648 } as const;
/** Image formats that glTF 2.0 itself does not have. */
const IMAGE_EXTENSIONS: Readonly<Record<string, typeof EXTTextureWebP | typeof EXTTextureAVIF>> = {
  'image/webp': EXTTextureWebP,
  'image/avif': EXTTextureAVIF,
};
/** KHR_materials_ior writes 0 for what reflects everything at grazing angles. */
const ENDLESS_IOR = 1e4;

export type ImageOf = (blob: string) => Promise<Uint8Array>;
type Layers = NonNullable<MaterialNow['layers']>;
type Slot = keyof MaterialNow['maps'];
/** Gives a texture to its place in a material. */
type Put = (slot: Slot, set: (t: Texture) => void, info: () => TextureInfo | null) => Promise<void>;

export class MaterialWriter {
  private readonly made = new Map<string, Promise<Material>>();
  private readonly names = new Set<string>();
  private readonly textures = new Map<string, Promise<Texture>>();
  private readonly transforms: KHRTextureTransform;
  constructor(
    private readonly doc: Document,
    private readonly imageOf: ImageOf,
  ) {
    this.transforms = doc.createExtension(KHRTextureTransform);
  }

  /** @param key of its values: the same key and name, the same material */
  of(m: MaterialNow, key: string): Promise<Material> {
    const id = `${m.name}\n${key}`;
    const known = this.made.get(id);
    if (known) return known;
    let name = m.name;
    for (let k = 2; this.names.has(name); k++) name = `${m.name} (${k})`;
    this.names.add(name);
    const made = this.make(m, name);
    this.made.set(id, made);
    return made;
  }

  private async make(m: MaterialNow, name: string): Promise<Material> {
    const l = m.layers ?? {};
    const out = this.doc
      .createMaterial(name)
      .setBaseColorFactor([...m.baseColor, l.alphaMode ? (l.alpha ?? 1) : 1])
      .setMetallicFactor(m.metallic)
      .setRoughnessFactor(m.roughness)
      .setEmissiveFactor([...m.emissionColor])
      .setNormalScale(m.normalScale)
      .setDoubleSided(m.doubleSided);
    if (l.alphaMode) out.setAlphaMode(l.alphaMode === 'mask' ? 'MASK' : 'BLEND').setAlphaCutoff(l.alphaCutoff ?? 0.5);
    const put: Put = async (slot, set, info) => {
      const map = m.maps[slot];
      if (!map) return;
      set(await this.texture(map));
      this.lay(info(), map);
    };
    await putOwn(out, put);
    await this.putSurface(out, m, put);
    if (l.coat) await this.putCoat(out, l, put);
    if (l.sheen) await this.putSheen(out, l, put);
    if (l.anisotropy) await this.putAnisotropy(out, l, put);
    if (l.iridescence) await this.putIridescence(out, l, put);
    if (l.unlit) out.setExtension('KHR_materials_unlit', this.doc.createExtension(KHRMaterialsUnlit).createUnlit());
    return out;
  }

  private async putSurface(out: Material, m: MaterialNow, put: Put): Promise<void> {
    if (m.emissionStrength !== 1) {
      const e = this.doc.createExtension(KHRMaterialsEmissiveStrength).createEmissiveStrength();
      out.setExtension('KHR_materials_emissive_strength', e.setEmissiveStrength(m.emissionStrength));
    }
    if (m.ior !== 1.5) {
      const ior = this.doc.createExtension(KHRMaterialsIOR).createIOR();
      out.setExtension('KHR_materials_ior', ior.setIOR(m.ior >= ENDLESS_IOR ? 0 : m.ior));
    }
    await this.putSpecular(out, m, put);
    if (m.transmission > 0 || m.maps.transmission) {
      const x = this.doc.createExtension(KHRMaterialsTransmission).createTransmission();
      out.setExtension('KHR_materials_transmission', x.setTransmissionFactor(m.transmission));
      await put(
        'transmission',
        (t) => x.setTransmissionTexture(t),
        () => x.getTransmissionTextureInfo(),
      );
    }
    if (m.solid) {
      const v = this.doc.createExtension(KHRMaterialsVolume).createVolume();
      v.setThicknessFactor(1).setAttenuationColor([...m.attenuationColor]);
      if (m.attenuationDistanceM !== null) v.setAttenuationDistance(m.attenuationDistanceM);
      out.setExtension('KHR_materials_volume', v);
    }
  }

  private async putSpecular(out: Material, m: MaterialNow, put: Put): Promise<void> {
    const color = m.layers?.specularColor;
    if (m.specular === 1 && !color && !m.maps.specular && !m.maps.specularColor) return;
    const s = this.doc.createExtension(KHRMaterialsSpecular).createSpecular().setSpecularFactor(m.specular);
    if (color) s.setSpecularColorFactor([...color]);
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

  private async putCoat(out: Material, l: Layers, put: Put): Promise<void> {
    const c = this.doc
      .createExtension(KHRMaterialsClearcoat)
      .createClearcoat()
      .setClearcoatFactor(l.coat!)
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

  private async putSheen(out: Material, l: Layers, put: Put): Promise<void> {
    const s = this.doc
      .createExtension(KHRMaterialsSheen)
      .createSheen()
      .setSheenColorFactor([...l.sheen!])
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

  private async putAnisotropy(out: Material, l: Layers, put: Put): Promise<void> {
    const a = this.doc
      .createExtension(KHRMaterialsAnisotropy)
      .createAnisotropy()
      .setAnisotropyStrength(l.anisotropy!)
      .setAnisotropyRotation(l.anisotropyTurnRad ?? 0);
    out.setExtension('KHR_materials_anisotropy', a);
    await put(
      'anisotropy',
      (t) => a.setAnisotropyTexture(t),
      () => a.getAnisotropyTextureInfo(),
    );
  }

  private async putIridescence(out: Material, l: Layers, put: Put): Promise<void> {
    const i = this.doc
      .createExtension(KHRMaterialsIridescence)
      .createIridescence()
      .setIridescenceFactor(l.iridescence!)
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

  private texture({ texture: t }: LaidMap): Promise<Texture> {
    const known = this.textures.get(t.blob);
    if (known) return known;
    const format = IMAGE_EXTENSIONS[t.mediaType];
    if (format) this.doc.createExtension<EXTTextureWebP | EXTTextureAVIF>(format).setRequired(true);
    const made = this.imageOf(t.blob).then((bytes) =>
      this.doc
        .createTexture(t.name)
        .setMimeType(t.mediaType)
        .setImage(bytes as Uint8Array<ArrayBuffer>),
    );
    this.textures.set(t.blob, made);
    return made;
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
    const transform = this.transforms
      .createTransform()
      .setOffset([x, y])
      .setRotation(Math.atan2(-c, a))
      .setScale([Math.hypot(a, c), Math.hypot(b, d)]);
    info.setExtension('KHR_texture_transform', transform);
  }
}

/** What glTF 2.0 has without extensions. */
async function putOwn(out: Material, put: Put): Promise<void> {
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
}
