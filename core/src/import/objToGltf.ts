// Wavefront OBJ with its MTL files into a glTF document, which the importer then reads like any other. MTL's older
// shading is brought to metallic-roughness: the specular exponent Ns to a roughness of √(2 / (Ns + 2)) (Karis 2013, its
// inverse), and its own Pm and Pr as they are.
import { Document, type Material } from '@gltf-transform/core';
import { KHRMaterialsEmissiveStrength, KHRMaterialsIOR, KHRMaterialsTransmission } from '@gltf-transform/extensions';
import { weldPrimitive } from '@gltf-transform/functions';
import { type BufferGeometry, type Group, type Mesh } from 'three';
import { MTLLoader } from 'three/examples/jsm/loaders/MTLLoader.js';
import { OBJLoader } from 'three/examples/jsm/loaders/OBJLoader.js';
import { ImportError } from '../scene/index.ts';
import type { ObjFiles } from './openFiles.ts';

type MtlInfo = Readonly<Record<string, string | readonly number[] | undefined>>;

const MEDIA_TYPES: Readonly<Record<string, string>> = {
  png: 'image/png',
  jpg: 'image/jpeg',
  jpeg: 'image/jpeg',
  webp: 'image/webp',
};

export async function objToGltf({ name, text, files, faults }: ObjFiles): Promise<Document> {
  let group: Group;
  try {
    group = new OBJLoader().parse(text);
  } catch (e) {
    throw new ImportError(
      'UNREADABLE',
      `“${name}” could not be read: ${e instanceof Error ? e.message : String(e)}. Export it again.`,
    );
  }
  const find = (path: string): Uint8Array<ArrayBuffer> | undefined => {
    const base = path.split(/[/\\]/).at(-1)!.toLowerCase();
    const key =
      Object.keys(files).find((k) => k.toLowerCase() === path.toLowerCase()) ??
      Object.keys(files).find((k) => k.split('/').at(-1)!.toLowerCase() === base);
    return key === undefined ? undefined : files[key];
  };
  const infos = new Map<string, MtlInfo>();
  for (const line of text.match(/^\s*mtllib\s+.*$/gm) ?? []) {
    const file = line.trim().slice(7).trim();
    const bytes = find(file);
    if (!bytes) {
      faults.push({
        kind: 'missing-texture',
        subject: file,
        message: `The material file “${file}” is not there; surfaces that it describes are plain grey. Drop it together with the scene.`,
      });
      continue;
    }
    for (const [key, info] of Object.entries(
      (
        new MTLLoader().parse(new TextDecoder().decode(bytes), '') as unknown as {
          materialsInfo: Record<string, MtlInfo>;
        }
      ).materialsInfo,
    ))
      infos.set(key, info);
  }
  const doc = new Document();
  const buffer = doc.createBuffer();
  const scene = doc.createScene();
  const materials = new Map<string, Material>();
  const textures = new Map<string, ReturnType<Document['createTexture']>>();
  const lost = new Set<string>();
  const texture = (value: unknown, owner: string) => {
    // options of a map stand before its name: -s 2 2 1, -bm 0.5 …
    const path = typeof value === 'string' ? value.replace(/^(\s*-\w+(\s+(on|off|-?[\d.]+))*\s+)+/, '').trim() : '';
    const known = textures.get(path);
    if (!path || known) return known ?? null;
    const bytes = find(path);
    const mediaType = MEDIA_TYPES[path.slice(path.lastIndexOf('.') + 1).toLowerCase()];
    if (typeof value === 'string' && value.trim() !== path)
      faults.push({
        kind: 'approximated',
        subject: path,
        message: `The options of texture “${path}” of “${owner}” are not read.`,
      });
    if (bytes && mediaType) {
      const t = doc.createTexture(path.split(/[/\\]/).at(-1)!).setMimeType(mediaType).setImage(bytes);
      textures.set(path, t);
      return t;
    }
    if (!lost.has(path))
      faults.push(
        bytes
          ? {
              kind: 'unread-texture',
              subject: path,
              message: `Texture “${path}” is neither PNG, JPEG nor WebP and is left out.`,
            }
          : {
              kind: 'missing-texture',
              subject: path,
              message: `Texture file “${path}” of “${owner}” is not there and is left out.`,
            },
      );
    lost.add(path);
    return null;
  };
  const material = (key: string): Material => {
    const known = materials.get(key);
    if (known) return known;
    const m = doc
      .createMaterial(key || 'No material')
      .setMetallicFactor(0)
      .setRoughnessFactor(0.8)
      .setDoubleSided(true)
      .setBaseColorFactor([0.6, 0.6, 0.6, 1]);
    const info = infos.get(key);
    materials.set(key, m);
    if (!info) return m;
    const number = (k: string): number | undefined => {
      const v = Number.parseFloat(String(info[k]));
      return Number.isFinite(v) ? v : undefined;
    };
    const triple = (k: string) => {
      const v = info[k];
      return Array.isArray(v) && v.length >= 3 && v.every((x) => Number.isFinite(x))
        ? (v as unknown as [number, number, number])
        : undefined;
    };
    const kd = triple('kd');
    const ke = triple('ke');
    const shine = number('ns');
    const clear = number('d') ?? (number('tr') === undefined ? 1 : 1 - number('tr')!);
    const ior = number('ni');
    const glass = ['4', '6', '7', '9'].includes(String(info['illum'] ?? '').trim()) && clear < 1;
    const at = (x: number) => Math.min(1, Math.max(0, x));
    if (kd) m.setBaseColorFactor([at(kd[0]), at(kd[1]), at(kd[2]), glass ? 1 : at(clear)]);
    if (info['map_kd'])
      m.setBaseColorFactor([1, 1, 1, glass ? 1 : at(clear)]).setBaseColorTexture(texture(info['map_kd'], key));
    m.setRoughnessFactor(
      at(number('pr') ?? (shine === undefined ? 0.8 : Math.sqrt(2 / (Math.max(0, shine) + 2)))),
    ).setMetallicFactor(at(number('pm') ?? 0));
    if (glass)
      m.setExtension(
        'KHR_materials_transmission',
        doc
          .createExtension(KHRMaterialsTransmission)
          .createTransmission()
          .setTransmissionFactor(at(1 - clear)),
      );
    else if (clear < 1) m.setAlphaMode('BLEND');
    if (ior !== undefined && ior >= 1)
      m.setExtension('KHR_materials_ior', doc.createExtension(KHRMaterialsIOR).createIOR().setIOR(ior));
    if (ke && Math.max(...ke) > 0) {
      const most = Math.max(1, ...ke);
      m.setEmissiveFactor([ke[0] / most, ke[1] / most, ke[2] / most]);
      if (most > 1)
        m.setExtension(
          'KHR_materials_emissive_strength',
          doc.createExtension(KHRMaterialsEmissiveStrength).createEmissiveStrength().setEmissiveStrength(most),
        );
    }
    if (info['map_ke']) m.setEmissiveTexture(texture(info['map_ke'], key));
    if (info['norm']) m.setNormalTexture(texture(info['norm'], key));
    const unread = ['map_d', 'map_ks', 'map_ns', 'map_pr', 'map_pm', 'map_bump', 'bump', 'disp'].filter(
      (k) => info[k] !== undefined,
    );
    if (unread.length)
      faults.push({
        kind: 'unread-texture',
        subject: key,
        message: `Of material “${key}”, ${unread.join(', ')} ${unread.length > 1 ? 'are' : 'is'} not read.`,
      });
    return m;
  };
  let drawn = 0;
  for (const child of group.children as Mesh[]) {
    if (!child.isMesh) {
      faults.push({
        kind: 'unread-feature',
        subject: child.name,
        message: `“${child.name || 'A part'}” is made of points or lines, which are not rendered.`,
      });
      continue;
    }
    const list = (Array.isArray(child.material) ? child.material : [child.material]).map((m) => m.name);
    const g: BufferGeometry = child.geometry;
    const groups = g.groups.length
      ? g.groups
      : [{ start: 0, count: g.getAttribute('position').count, materialIndex: 0 }];
    const mesh = doc.createMesh(child.name || 'part');
    for (const { start, count, materialIndex } of groups) {
      if (count < 3) continue;
      const part = (attribute: string, size: number): Float32Array<ArrayBuffer> | undefined => {
        const a = g.getAttribute(attribute);
        return a ? new Float32Array(a.array.slice(start * size, (start + count) * size)) : undefined;
      };
      const primitive = doc.createPrimitive().setMaterial(material(list[materialIndex ?? 0] ?? ''));
      const put = (semantic: string, type: 'VEC2' | 'VEC3', array: Float32Array<ArrayBuffer> | undefined) => {
        if (array)
          primitive.setAttribute(semantic, doc.createAccessor().setType(type).setArray(array).setBuffer(buffer));
      };
      put('POSITION', 'VEC3', part('position', 3));
      const normals = part('normal', 3);
      const uv = part('uv', 2);
      const colors = part('color', 3);
      if (normals?.some((x) => x !== 0)) put('NORMAL', 'VEC3', normals);
      if (uv) {
        for (let i = 1; i < uv.length; i += 2) uv[i] = 1 - uv[i]!;
        put('TEXCOORD_0', 'VEC2', uv);
      } // OBJ counts from the bottom
      if (colors) put('COLOR_0', 'VEC3', colors);
      weldPrimitive(primitive);
      mesh.addPrimitive(primitive);
      drawn++;
    }
    g.dispose();
    scene.addChild(doc.createNode(child.name || 'part').setMesh(mesh));
  }
  if (!drawn)
    throw new ImportError('UNREADABLE', `“${name}” has no surface in it. Export at least one object with faces.`);
  return doc;
}
