// Names of layers as people read them.
const WORDS: Readonly<Record<string, string>> = {
  picture: 'Picture',
  traced: 'As traced',
  depth: 'Depth',
  'depth.range': 'Depth, in range',
  position: 'Position',
  normal: 'Normals',
  geometricNormal: 'Normals of triangles',
  albedo: 'Albedo',
  emission: 'Emission',
  direct: 'Direct light',
  indirect: 'Indirect light',
  motion: 'Motion',
  leftOut: 'Left out, at most',
  samples: 'Samples',
  noise: 'Noise',
};
export const layerWords = (name: string): string =>
  WORDS[name] ?? (name.startsWith('light.') ? `Light group ${name.slice('light.'.length)}` : name);
