import type { MaterialLayers, Rgb, SceneMaterial, TextureSlot } from '../../scene/index.ts';
import { type Property, type SceneIndex, lightGroups, ofObject, textureNames } from '../property.ts';

/** How an object, and all in it that says nothing else, is drawn. */
export const DRAWN_LOOKS = [
  { id: 'group', label: 'As its group' },
  { id: 'own', label: 'Its materials' },
  { id: 'clay', label: 'Clay' },
  { id: 'ink', label: 'Flat steps and ink' },
] as const;
const wholeScene = DRAWN_LOOKS.filter((d) => d.id !== 'group').map((d) => ({ value: d.id as string, label: d.label }));
export type DrawnLook = Exclude<(typeof DRAWN_LOOKS)[number]['id'], 'group'>;

const of =
  <T>(read: (m: SceneMaterial) => T | undefined) =>
  (s: SceneIndex, name: string): T | undefined => {
    const m = s.material(name);
    return m && read(m);
  };
const layer = <T>(read: (l: MaterialLayers) => T | undefined, otherwise: T) =>
  of((m) => (m.layers && read(m.layers)) ?? otherwise);
const common = { facet: 'materials', on: 'material' } as const;
const share = (
  id: string,
  label: string,
  base: (s: SceneIndex, m: string) => number | undefined,
  more: Partial<Pick<Property, 'section' | 'counts' | 'linearInLight'>> = {},
): Property => ({
  ...common,
  ...more,
  id: `material.${id}`,
  label,
  type: 'number',
  min: 0,
  max: 1,
  step: 0.01,
  unit: '',
  base,
});
const color = (
  id: string,
  label: string,
  base: (s: SceneIndex, m: string) => Rgb | undefined,
  more: Partial<Pick<Property, 'section' | 'counts' | 'linearInLight'>> = {},
): Property => ({ ...common, ...more, id: `material.${id}`, label, type: 'color', base });
const GLASS = { section: 'Glass' };
const LAYERS = { section: 'Coat, cloth and film' };
const GLOW = { section: 'Emission' };
const BLACK: Rgb = [0, 0, 0];
const PLAIN_IOR = 1.5;

/** Slots of textures that a look can fill with another image; none: the value alone counts. */
export const TEXTURE_PROPERTIES: Readonly<Record<string, TextureSlot>> = {
  'material.baseMap': 'base',
  'material.roughnessMap': 'metallicRoughness',
  'material.normalMap': 'normal',
  'material.emissionMap': 'emission',
};
const map = (id: string, label: string, slot: TextureSlot): Property => ({
  ...common,
  section: 'Maps',
  id: `material.${id}`,
  label,
  type: 'choice',
  choices: textureNames,
  brings: 'image',
  base: (s, name) => {
    const m = s.material(name);
    const t = m?.textures[slot];
    return m && (t ? s.document.textures[t.texture]!.name : 'none');
  },
});

export const MATERIAL_PROPERTIES: readonly Property[] = [
  {
    id: 'object.material',
    facet: 'materials',
    on: 'object',
    label: 'Material',
    type: 'choice',
    choices: (s) => s.document.materials.map((m) => ({ value: m.name, label: m.name })),
    base: (s, p) => {
      const n = s.node(p);
      return n?.parts?.length === 1 ? s.document.materials[n.parts[0]!.material]!.name : undefined;
    },
  },
  {
    id: 'object.drawn',
    facet: 'materials',
    on: 'object',
    label: 'Drawn as',
    type: 'choice',
    choices: () => DRAWN_LOOKS.map((d) => ({ value: d.id, label: d.label })),
    base: ofObject<string>('group'),
  },
  {
    id: 'scene.drawn',
    facet: 'materials',
    on: 'scene',
    label: 'Drawn as',
    type: 'choice',
    choices: () => wholeScene,
    base: () => 'own' satisfies DrawnLook,
  },
  color(
    'baseColor',
    'Base colour',
    of((m) => m.baseColor),
  ),
  map('baseMap', 'Base map', 'base'),
  share(
    'metallic',
    'Metalness',
    of((m) => m.metallic),
  ),
  share(
    'roughness',
    'Roughness',
    of((m) => m.roughness),
  ),
  map('roughnessMap', 'Roughness map', 'metallicRoughness'),
  map('normalMap', 'Normal map', 'normal'),
  {
    ...common,
    section: 'Maps',
    counts: (get) => get('material.normalMap') !== 'none',
    id: 'material.normalScale',
    label: 'Normal map strength',
    type: 'number',
    min: 0,
    max: 10,
    step: 0.05,
    unit: '×',
    base: of((m) => m.normalScale),
  },
  share(
    'specular',
    'Specular',
    of((m) => m.specular),
  ),
  {
    ...common,
    ...GLASS,
    id: 'material.ior',
    label: 'Refractive index',
    type: 'number',
    min: 1,
    max: 4,
    step: 0.01,
    unit: '',
    base: of((m) => m.ior || PLAIN_IOR),
  },
  share(
    'transmission',
    'Transmission',
    of((m) => m.transmission),
    GLASS,
  ),
  color(
    'absorptionColor',
    'Inner colour',
    of((m) => (m.solid ? m.attenuationColor : undefined)),
    GLASS,
  ),
  {
    ...common,
    ...GLASS,
    id: 'material.absorptionDistance',
    label: 'Inner colour after',
    type: 'number',
    min: 0.0001,
    max: 1e6,
    step: 0.01,
    scale: 'log',
    unit: 'm',
    base: of((m) => (m.solid ? (m.attenuationDistanceM ?? 1e6) : undefined)),
  },
  {
    ...common,
    ...GLASS,
    id: 'material.priority',
    label: 'Overlap priority',
    type: 'number',
    min: 0,
    max: 100,
    step: 1,
    unit: '',
    base: of((m) => (m.solid ? 0 : undefined)),
  },
  share(
    'coat',
    'Coat',
    layer((l) => l.coat, 0),
    LAYERS,
  ),
  share(
    'coatRoughness',
    'Coat roughness',
    layer((l) => l.coatRoughness, 0),
    { ...LAYERS, counts: (get) => get('material.coat') !== 0 },
  ),
  color(
    'sheen',
    'Sheen',
    layer((l) => l.sheen, BLACK),
    LAYERS,
  ),
  share(
    'sheenRoughness',
    'Sheen roughness',
    layer((l) => l.sheenRoughness, 0),
    LAYERS,
  ),
  share(
    'anisotropy',
    'Brushed',
    layer((l) => l.anisotropy, 0),
    LAYERS,
  ),
  share(
    'iridescence',
    'Iridescence',
    layer((l) => l.iridescence, 0),
    LAYERS,
  ),
  share(
    'alpha',
    'Alpha',
    of((m) => (m.layers?.alphaMode ? (m.layers.alpha ?? 1) : undefined)),
  ),
  color(
    'emissionColor',
    'Emission colour',
    of((m) => m.emissionColor),
    { ...GLOW, linearInLight: true },
  ),
  {
    ...common,
    ...GLOW,
    id: 'material.emissionStrength',
    label: 'Emission strength',
    type: 'number',
    min: 0,
    max: 1e6,
    step: 0.1,
    scale: 'log',
    unit: 'nt',
    base: of((m) => m.emissionStrength),
    linearInLight: true,
  },
  map('emissionMap', 'Emission map', 'emission'),
  {
    ...common,
    ...GLOW,
    id: 'material.lightGroup',
    label: 'Light group',
    type: 'choice',
    choices: lightGroups,
    base: of((m) => (m.emissionStrength > 0 && Math.max(...m.emissionColor) > 0 ? '1' : undefined)),
  },
  {
    ...common,
    section: 'Maps',
    id: 'material.mapScale',
    label: 'Maps repeat',
    type: 'number',
    min: 0.01,
    max: 1000,
    step: 0.1,
    scale: 'log',
    unit: '×',
    base: of(() => 1),
  },
  {
    ...common,
    section: 'Maps',
    id: 'material.mapTurn',
    label: 'Rotation of maps',
    type: 'number',
    min: -360,
    max: 360,
    step: 1,
    unit: '°',
    base: of(() => 0),
  },
  {
    ...common,
    section: 'Displacement',
    id: 'material.displacementMap',
    label: 'Displacement height',
    type: 'choice',
    choices: textureNames,
    brings: 'image',
    base: of(() => 'none'),
  },
  {
    ...common,
    section: 'Displacement',
    counts: (get) => get('material.displacementMap') !== 'none',
    id: 'material.displacement',
    label: 'White raised by',
    type: 'number',
    min: -10,
    max: 10,
    step: 0.005,
    unit: 'm',
    base: of(() => 0.02),
  },
];
