// Materials of a scene file.
import type { Material, Texture, TextureInfo } from '@gltf-transform/core';
import type {
  Anisotropy,
  Clearcoat,
  EmissiveStrength,
  IOR,
  Iridescence,
  Sheen,
  Specular,
  Transmission,
  Volume,
} from '@gltf-transform/extensions';
import type { MaterialLayers, Rgb, SceneMaterial, TextureRef, TextureSlot } from '../scene/index.ts';
import type { Gathered } from './gathered.ts';
import type { Textures } from './importTextures.ts';
import { materialName } from './names.ts';

export class Materials {
  readonly list: SceneMaterial[] = [];
  private readonly known = new Map<Material | null, number>();
  private readonly names = new Set<string>();
  constructor(
    private readonly gathered: Gathered,
    private readonly textures: Textures,
  ) {}

  /** @param m null: of a mesh that has none */
  indexOf(m: Material | null): number {
    const known = this.known.get(m);
    if (known !== undefined) return known;
    const name = this.nameOf(m);
    if (m) this.remarkOn(m, name);
    const index = this.list.push(this.read(m, name)) - 1;
    this.known.set(m, index);
    return index;
  }
  private nameOf(m: Material | null): string {
    const base = materialName(m?.getName().trim() || (m ? 'Material' : 'No material'));
    let name = base;
    for (let n = 2; this.names.has(name); n++) name = `${base} (${n})`;
    this.names.add(name);
    return name;
  }
  private remarkOn(m: Material, name: string): void {
    if (m.getExtension<Volume>('KHR_materials_volume')?.getThicknessTexture())
      this.gathered.fault(
        'unread-texture',
        name,
        `The thickness texture of “${name}” is not read: the surface itself says how thick it is.`,
      );
    if (m.getOcclusionTexture())
      this.gathered.fault(
        'ignored',
        name,
        `The occlusion texture of “${name}” is not used: the renderer finds occlusion itself.`,
      );
  }

  private read(m: Material | null, name: string): SceneMaterial {
    const volume = m?.getExtension<Volume>('KHR_materials_volume');
    const transmission = m?.getExtension<Transmission>('KHR_materials_transmission');
    const specular = m?.getExtension<Specular>('KHR_materials_specular');
    const strength = m?.getExtension<EmissiveStrength>('KHR_materials_emissive_strength');
    const color = m?.getBaseColorFactor() ?? [1, 1, 1, 1];
    const emissive = m?.getEmissiveFactor() ?? [0, 0, 0];
    const distance = volume?.getAttenuationDistance() ?? Infinity;
    const layers = m ? layersOf(m) : undefined;
    const ior = m?.getExtension<IOR>('KHR_materials_ior')?.getIOR() ?? 1.5;
    // without a material, as glTF 2.0 has it (3.7.2.1): its default material
    return {
      name,
      baseColor: [color[0]!, color[1]!, color[2]!],
      metallic: m?.getMetallicFactor() ?? 1,
      roughness: m?.getRoughnessFactor() ?? 1,
      transmission: transmission?.getTransmissionFactor() ?? 0,
      // KHR_materials_ior: 0 stands for a surface that reflects everything at grazing angles and nothing through
      // Fresnel's equations
      ior: ior >= 1 ? ior : 1e4,
      specular: specular?.getSpecularFactor() ?? 1,
      emissionColor: [emissive[0]!, emissive[1]!, emissive[2]!],
      emissionStrength: strength?.getEmissiveStrength() ?? 1,
      normalScale: m?.getNormalScale() ?? 1,
      attenuationColor: (volume?.getAttenuationColor() as Rgb | undefined) ?? [1, 1, 1],
      attenuationDistanceM: Number.isFinite(distance) && distance > 0 ? distance : null,
      solid: (volume?.getThicknessFactor() ?? 0) > 0,
      doubleSided: m?.getDoubleSided() ?? false,
      ...(layers && { layers }),
      textures: m ? this.texturesOf(m) : {},
    };
  }

  private texturesOf(m: Material): Partial<Record<TextureSlot, TextureRef>> {
    const textures: Partial<Record<TextureSlot, TextureRef>> = {};
    const put = (slot: TextureSlot, t: Texture | null | undefined, info: TextureInfo | null | undefined) => {
      const ref = this.textures.ref(t, info);
      if (ref) textures[slot] = ref;
    };
    const transmission = m.getExtension<Transmission>('KHR_materials_transmission');
    const specular = m.getExtension<Specular>('KHR_materials_specular');
    const coat = m.getExtension<Clearcoat>('KHR_materials_clearcoat');
    const sheen = m.getExtension<Sheen>('KHR_materials_sheen');
    const stretch = m.getExtension<Anisotropy>('KHR_materials_anisotropy');
    const film = m.getExtension<Iridescence>('KHR_materials_iridescence');
    put('base', m.getBaseColorTexture(), m.getBaseColorTextureInfo());
    put('metallicRoughness', m.getMetallicRoughnessTexture(), m.getMetallicRoughnessTextureInfo());
    put('normal', m.getNormalTexture(), m.getNormalTextureInfo());
    put('emission', m.getEmissiveTexture(), m.getEmissiveTextureInfo());
    put('transmission', transmission?.getTransmissionTexture(), transmission?.getTransmissionTextureInfo());
    put('specular', specular?.getSpecularTexture(), specular?.getSpecularTextureInfo());
    put('specularColor', specular?.getSpecularColorTexture(), specular?.getSpecularColorTextureInfo());
    put('coat', coat?.getClearcoatTexture(), coat?.getClearcoatTextureInfo());
    put('coatRoughness', coat?.getClearcoatRoughnessTexture(), coat?.getClearcoatRoughnessTextureInfo());
    put('coatNormal', coat?.getClearcoatNormalTexture(), coat?.getClearcoatNormalTextureInfo());
    put('sheen', sheen?.getSheenColorTexture(), sheen?.getSheenColorTextureInfo());
    put('sheenRoughness', sheen?.getSheenRoughnessTexture(), sheen?.getSheenRoughnessTextureInfo());
    put('anisotropy', stretch?.getAnisotropyTexture(), stretch?.getAnisotropyTextureInfo());
    put('iridescence', film?.getIridescenceTexture(), film?.getIridescenceTextureInfo());
    put('iridescenceThickness', film?.getIridescenceThicknessTexture(), film?.getIridescenceThicknessTextureInfo());
    return textures;
  }
}

/** Alpha and the further layers; undefined where the material has none. */
function layersOf(m: Material): MaterialLayers | undefined {
  const coat = m.getExtension<Clearcoat>('KHR_materials_clearcoat');
  const sheen = m.getExtension<Sheen>('KHR_materials_sheen');
  const stretch = m.getExtension<Anisotropy>('KHR_materials_anisotropy');
  const film = m.getExtension<Iridescence>('KHR_materials_iridescence');
  const specularColor = m.getExtension<Specular>('KHR_materials_specular')?.getSpecularColorFactor();
  const mode = m.getAlphaMode();
  const layers: MaterialLayers = {
    ...(mode !== 'OPAQUE' && {
      alphaMode: mode === 'MASK' ? 'mask' : 'blend',
      alpha: m.getBaseColorFactor()[3],
      alphaCutoff: m.getAlphaCutoff(),
    }),
    ...(m.getExtension('KHR_materials_unlit') && { unlit: true }),
    ...(specularColor && specularColor.some((x) => x !== 1) && { specularColor: specularColor as unknown as Rgb }),
    ...(coat &&
      coat.getClearcoatFactor() > 0 && {
        coat: coat.getClearcoatFactor(),
        coatRoughness: coat.getClearcoatRoughnessFactor(),
        coatNormalScale: coat.getClearcoatNormalScale(),
      }),
    ...(sheen && {
      sheen: sheen.getSheenColorFactor() as unknown as Rgb,
      sheenRoughness: sheen.getSheenRoughnessFactor(),
    }),
    ...(stretch &&
      stretch.getAnisotropyStrength() > 0 && {
        anisotropy: stretch.getAnisotropyStrength(),
        anisotropyTurnRad: stretch.getAnisotropyRotation(),
      }),
    ...(film &&
      film.getIridescenceFactor() > 0 && {
        iridescence: film.getIridescenceFactor(),
        iridescenceIor: film.getIridescenceIOR(),
        iridescenceNm: [film.getIridescenceThicknessMinimum(), film.getIridescenceThicknessMaximum()] as const,
      }),
  };
  return Object.keys(layers).length ? layers : undefined;
}
