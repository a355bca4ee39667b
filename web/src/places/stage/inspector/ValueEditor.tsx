// The editor of a property's value: made from its declaration.
import { Select, Switch } from '@mantine/core';
import { useQueryClient } from '@tanstack/react-query';
import type { Project } from '@variscen/contract';
import { parseSky } from '@variscen/core/environment';
import { parseLut } from '@variscen/core/image';
import {
  PANEL_GRADIENTS,
  type Property,
  type SceneIndex,
  type Value,
  imageValue,
  objectTarget,
  parseImage,
  parseProfile,
  profileValue,
  propertyOf,
  readIes,
} from '@variscen/core/looks';
import type { Rgb } from '@variscen/core/scene';
import { useMemo, useRef, useState } from 'react';
import { sendFile } from '../../../api/client.ts';
import { useEnvironments } from '../../../api/queries.ts';
import { ColorField, fromHex, toHex } from '../../../ui/ColorField.tsx';
import { NumberField } from '../../../ui/NumberField.tsx';
import { say, sayError } from '../../../ui/notify.ts';
import { copiedMaterials } from '../../../model/materialNames.ts';
import { gradientFile } from './gradientFile.ts';
import styles from './ValueEditor.module.css';

const AXES = { axes: ['X', 'Y', 'Z'], channels: ['R', 'G', 'B'] } as const;
/** value null: several that differ. */
export function ValueEditor({
  project,
  property,
  index,
  value,
  unit,
  label,
  onChange,
}: {
  project: Project;
  property: Property;
  index: SceneIndex;
  value: Value | null;
  unit: string;
  label: string;
  onChange: (v: Value) => void;
}) {
  switch (property.type) {
    case 'boolean':
      return (
        <div className={styles.switchFrame}>
          {value === null && <span className="faint">mixed</span>}
          <Switch
            size="xs"
            aria-label={label}
            checked={value === true}
            onChange={(e) => onChange(e.currentTarget.checked)}
          />
        </div>
      );
    case 'color':
      return (
        <ColorField
          label={label}
          value={value === null ? '' : toHex(value as Rgb)}
          onChange={(hex) => onChange(fromHex(hex))}
        />
      );
    case 'choice':
      if (property.picks)
        return <PickedField label={label} property={property} index={index} value={value} onChange={onChange} />;
      return property.brings ? (
        <BringField
          project={project}
          brings={property.brings}
          label={label}
          property={property}
          index={index}
          value={value === null ? null : String(value)}
          onChange={onChange}
        />
      ) : (
        <Select
          size="xs"
          aria-label={label}
          placeholder="mixed"
          value={value === null ? null : String(value)}
          data={choicesOf(project, property, index)}
          allowDeselect={false}
          searchable={property.choices(index).length > 8}
          onChange={(v) => {
            if (v !== null) onChange(v);
          }}
          comboboxProps={{ width: 200, position: 'bottom-end' }}
        />
      );
    case 'vector':
      return (
        <div className={styles.property}>
          {AXES[property.of].map((axis, k) => (
            <NumberField
              key={axis}
              letter={axis}
              label={`${label} ${axis}`}
              unit=""
              value={value === null ? null : (value as Rgb)[k]!}
              min={property.min}
              max={property.max}
              step={property.step}
              {...(property.whole && { decimals: 0 })}
              empty="mixed"
              onChange={(v) => {
                const next = [...((value as Rgb | null) ?? NOTHING(property))];
                next[k] = v;
                onChange(next as unknown as Rgb);
              }}
            />
          ))}
        </div>
      );
    case 'number':
      return (
        <NumberField
          label={label}
          unit={unit}
          value={value === null ? null : Number(value)}
          min={property.min}
          max={property.max}
          step={property.step}
          scale={property.scale}
          empty="mixed"
          onChange={onChange}
        />
      );
  }
}

/** With the materials that looks copied among those to wear. */
const choicesOf = (project: Project, property: Extract<Property, { type: 'choice' }>, index: SceneIndex) => [
  ...property.choices(index),
  ...(property.id === 'object.material'
    ? copiedMaterials(project)
        .filter((m) => index.material(m))
        .map((m) => ({ value: m, label: m.replace('#', ' ') }))
    : []),
];

interface PickedProps {
  label: string;
  property: Extract<Property, { type: 'choice' }>;
  index: SceneIndex;
  value: Value | null;
  onChange: (v: Value) => void;
}
/** What was picked in the view, by its name. */
function PickedField({ label, property, index, value, onChange }: PickedProps) {
  const [none] = property.choices(index);
  const isNone = value === none!.value;
  const name = value === null ? 'mixed' : index.label(objectTarget(String(value)));
  return (
    <div className={styles.picked}>
      <span
        className={`ellipsis ${isNone ? 'faint' : ''}`}
        title={value === null || isNone ? undefined : String(value)}
      >
        {isNone ? none!.label : name}
      </span>
      {!isNone && (
        <button
          type="button"
          className="quiet"
          aria-label={`${label}: ${none!.label}`}
          title={`Aim at ${none!.label}`}
          onClick={() => onChange(none!.value)}
        >
          ✕
        </button>
      )}
    </div>
  );
}

/** Where several differ, what an axis that is not set starts from. */
const NOTHING = (p: Property): Rgb => (p.type === 'vector' && p.min > 0 ? [1, 1, 1] : [0, 0, 0]);

const KINDS = {
  environment: {
    heading: 'Made here',
    found: 'Maps',
    more: 'Import a map…',
    accept: '.hdr,.exr',
    name: (v: string) => parseSky(v)?.name,
  },
  image: {
    heading: 'Of the scene',
    found: 'Imported',
    more: 'Import an image…',
    accept: '.png,.jpg,.jpeg,.webp,.tif,.tiff',
    name: (v: string) => parseImage(v)?.name,
  },
  ies: {
    heading: 'Made here',
    found: 'Imported',
    more: 'Import an IES file…',
    accept: '.ies',
    name: (v: string) => parseProfile(v)?.name,
  },
  lut: {
    heading: 'LUT',
    found: 'Imported',
    more: 'Import a .cube…',
    accept: '.cube',
    name: (v: string) => parseLut(v)?.name,
  },
} as const;
type Brings = keyof typeof KINDS;
const MOST_IES_BYTES = 2 ** 20;

async function bringIn(
  brings: Brings,
  f: File,
): Promise<{ value: string; name: string; about: string; remarks: string }> {
  if (brings === 'environment') {
    const m = await sendFile('importEnvironment', f);
    return { value: m.value, name: m.name, about: `${m.width} × ${m.height}`, remarks: m.remarks.join(' ') };
  }
  if (brings === 'ies') {
    if (f.size > MOST_IES_BYTES) throw new Error(`“${f.name}” is too large for an IES file.`);
    const profile = readIes(await f.text(), f.name);
    return { value: profileValue(profile), name: profile.name, about: 'the shape of a light', remarks: '' };
  }
  if (brings === 'lut') {
    const l = await sendFile('importLut', f);
    return { value: l.value, name: l.name, about: `${l.size} × ${l.size} × ${l.size}`, remarks: '' };
  }
  const i = await sendFile('importAsset', f);
  return {
    value: imageValue({ blob: i.hash, width: i.widthPx, height: i.heightPx, mediaType: i.mediaType, name: i.name }),
    name: i.name,
    about: `${i.widthPx} × ${i.heightPx}`,
    remarks: '',
  };
}

/** What the application has, what was brought in, or a file to bring in now. */
function BringField({
  project,
  brings,
  label,
  property,
  index,
  value,
  onChange,
}: {
  project: Project;
  brings: Brings;
  label: string;
  property: Extract<Property, { type: 'choice' }>;
  index: SceneIndex;
  value: string | null;
  onChange: (v: Value) => void;
}) {
  const maps = useEnvironments();
  const client = useQueryClient();
  const file = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState(false);
  const kind = KINDS[brings];
  const used = useMemo(() => {
    const out = new Map<string, string>();
    for (const changes of [
      project.base,
      ...project.options.map((o) => o.changes),
      ...project.patches.map((p) => p.changes),
      ...project.pending.map((p) => p.changes),
    ])
      for (const c of changes) {
        const p = propertyOf(c.property);
        const name =
          p?.type === 'choice' && p.brings === brings && typeof c.value === 'string' ? kind.name(c.value) : undefined;
        if (name) out.set(c.value as string, name);
      }
    return out;
  }, [project.base, project.options, project.patches, project.pending, brings, kind]);
  const listed = new Map([
    ...(brings === 'environment' ? (maps.data ?? []).map((m) => [m.value, m.name] as const) : []),
    ...used,
    ...(value !== null && kind.name(value) ? [[value, kind.name(value)!] as const] : []),
  ]);
  const gradients = property.id === 'light.picture' ? PANEL_GRADIENTS : [];
  const bring = async (made: () => Promise<File>) => {
    setBusy(true);
    try {
      const b = await bringIn(brings, await made());
      if (brings === 'environment') await client.invalidateQueries({ queryKey: ['environments'] });
      onChange(b.value);
      say(`“${b.name}” is in, ${b.about}`, b.remarks);
    } catch (e) {
      sayError(e);
    } finally {
      setBusy(false);
    }
  };
  return (
    <>
      <Select
        size="xs"
        aria-label={label}
        placeholder={busy ? 'Reading …' : 'mixed'}
        disabled={busy}
        value={value}
        searchable={listed.size + property.choices(index).length > 12}
        data={[
          { group: kind.heading, items: [...property.choices(index)] },
          ...(listed.size
            ? [{ group: kind.found, items: [...listed].map(([v, name]) => ({ value: v, label: name })) }]
            : []),
          ...(gradients.length
            ? [{ group: 'Gradients', items: gradients.map(({ id, name }) => ({ value: id, label: name })) }]
            : []),
          { group: 'More', items: [{ value: BRING, label: kind.more }] },
        ]}
        allowDeselect={false}
        onChange={(v) => {
          const gradient = gradients.find((g) => g.id === v);
          if (gradient) void bring(() => gradientFile(gradient));
          else if (v === BRING) file.current?.click();
          else if (v !== null) onChange(v);
        }}
        comboboxProps={{ width: 210, position: 'bottom-end' }}
      />
      <input
        ref={file}
        type="file"
        hidden
        accept={kind.accept}
        aria-label={`${label}, map`}
        onChange={(e) => {
          const f = e.currentTarget.files?.[0];
          e.currentTarget.value = '';
          if (f) void bring(() => Promise.resolve(f));
        }}
      />
    </>
  );
}
const BRING = 'bring';
