// The values of what is selected: each with its unit, where it comes from, and what it would be without.
import { ColorInput, NumberInput, Select, Switch } from '@mantine/core';
import type { Project } from '@variscen/contract';
import { encodeSrgb } from '@variscen/core/image';
import { type Property, type ResolvedState, type SceneIndex, type Value, materialTarget, objectTarget, lightTarget, parseTarget, propertiesFor, sameValue, targetLabel, unitOf, valueText } from '@variscen/core/looks';
import { type Rgb, placedTriangles } from '@variscen/core/scene';
import { useEffect, useState } from 'react';
import { count } from '../../shared/format.ts';
import { FacetGlyph, facetColor } from '../../shared/glyphs.tsx';
import { type Destination, isPending } from './edits.ts';

interface Props { project: Project; index: SceneIndex | undefined; state: ResolvedState | undefined; selected: string | null; destination: Destination; edit: (target: string, property: string, value: Value) => void; onDiscard: (target: string, property: string) => void }

export function Inspector(p: Props) {
  const { index, state, selected } = p, t = selected ? parseTarget(selected) : undefined, node = t && index && (t.kind === 'object' || t.kind === 'light') ? index.node(t.name) : undefined;
  const body = () => {
    if (!index || !state) return null;
    if (!selected || !t || (!node && (t.kind === 'object' || t.kind === 'light'))) return <div className="empty" style={{ padding: 16 }}><p>Select an object in the view or the tree to see its values, or the environment or the grade.</p></div>;
    const targets = node ? [...(node.light !== undefined ? [lightTarget(node.path)] : []), ...(node.parts || node.light === undefined ? [objectTarget(node.path)] : []), ...materialsOf(index, state, node.path).map(materialTarget)] : [selected];
    const light = node?.light === undefined ? undefined : index.document.lights[node.light];
    return (
      <>
        <h3 style={{ fontSize: 14, fontWeight: 600 }}>{targetLabel(selected)}</h3>
        <div className="dim" style={{ marginBottom: 8 }}>{node ? [light && `${{ sun: 'Sun', point: 'Point light', spot: 'Spot light', rectangle: 'Rectangle light', disc: 'Disc light' }[light.type]}`, node.parts && `${count(placedTriangles({ ...index.document, nodes: [node] }))} triangles`, node.path.includes('/') && node.path.slice(0, node.path.lastIndexOf('/'))].filter(Boolean).join(' · ') : 'The whole scene'}</div>
        {targets.map((target) => <Section key={target} {...p} index={index} state={state} target={target} titled={target.startsWith('material:')} />)}
      </>
    );
  };
  return <aside aria-label="Inspector" style={{ borderLeft: '1px solid var(--line)', padding: '14px 14px 20px', overflow: 'auto' }}>{body()}</aside>;
}

function materialsOf(index: SceneIndex, state: ResolvedState, path: string): string[] {
  const parts = index.node(path)?.parts ?? [], worn = parts.length === 1 ? state.get(objectTarget(path), 'object.material') : undefined;
  return typeof worn === 'string' ? [worn].filter((m) => index.materials.has(m)) : [...new Set(parts.map((x) => index.document.materials[x.material]!.name))];
}

function Section({ titled, target, ...p }: Props & { index: SceneIndex; state: ResolvedState; target: string; titled: boolean }) {
  const properties = propertiesFor(p.index, target);
  if (!properties.length) return null;
  return <section>{titled && <><hr className="hair" /><h4>Material “{targetLabel(target)}”, wherever it is worn</h4></>}{properties.map((property) => <Row key={property.id} {...p} target={target} property={property} />)}</section>;
}

function Row({ project, index, state, target, property, destination, edit, onDiscard }: Props & { index: SceneIndex; state: ResolvedState; target: string; property: Property }) {
  const value = state.get(target, property.id)!, source = state.provenance(target, property.id), base = property.base(index, parseTarget(target)!.name), unit = unitOf(property, index, target), pending = isPending(project, destination.id, target, property.id), winner = source?.layers.at(-1);
  const set = (v: Value) => { if (!sameValue(v, value)) edit(target, property.id, v); };
  const facet = winner?.facet ?? property.facet;
  return (
    <div style={{ display: 'grid', gridTemplateColumns: `10px minmax(0, 1fr) ${property.type === 'boolean' ? '40px' : '132px'}`, columnGap: 6, alignItems: 'center', minHeight: 30 }}>
      <span style={{ ...facetColor(property.facet), color: 'var(--fc)', lineHeight: 0 }}>{source && <FacetGlyph facet={property.facet} size={10} />}</span>
      <span className="dim ellipsis" title={property.label}>{property.label}</span>
      <Editor property={property} index={index} value={value} unit={unit} label={`${targetLabel(target)}, ${property.label}`} onChange={set} />
      {source && winner && (
        <div className="faint" style={{ gridColumn: '2 / 4', fontSize: 11, paddingBottom: 4, ...facetColor(facet) }}>
          {pending ? 'pending in ' : 'from '}<span style={{ color: winner.kind === 'option' ? 'var(--fc)' : 'var(--dim)' }}>{winner.kind === 'base' ? 'the base' : winner.name}</span>{source.layers.length > 1 && `, over ${source.layers.slice(0, -1).map((l) => (l.kind === 'base' ? 'the base' : l.name)).join(', ')}`}{!sameValue(base, value) && <>, scene {valueText(property, base, unit)}</>}
          {pending && <button type="button" onClick={() => onDiscard(target, property.id)} style={{ marginLeft: 6, color: 'var(--ink)', textDecoration: 'underline' }}>discard</button>}
        </div>
      )}
    </div>
  );
}

const toHex = (c: Rgb): string => `#${c.map((x) => Math.round(encodeSrgb(Math.min(1, Math.max(0, x))) * 255).toString(16).padStart(2, '0')).join('')}`;
const fromHex = (hex: string): Rgb => [1, 3, 5].map((i) => { const x = parseInt(hex.slice(i, i + 2), 16) / 255; return Number((x <= 0.04045 ? x / 12.92 : ((x + 0.055) / 1.055) ** 2.4).toFixed(5)); }) as unknown as Rgb;

function Editor({ property, index, value, unit, label, onChange }: { property: Property; index: SceneIndex; value: Value; unit: string; label: string; onChange: (v: Value) => void }) {
  switch (property.type) {
    case 'boolean': return <div style={{ justifySelf: 'end' }}><Switch size="xs" aria-label={label} checked={value === true} onChange={(e) => onChange(e.currentTarget.checked)} /></div>;
    case 'color': return <ColorField label={label} value={toHex(value as Rgb)} onChange={(hex) => onChange(fromHex(hex))} />;
    case 'choice': return <Select size="xs" aria-label={label} value={String(value)} data={[...property.choices(index)]} allowDeselect={false} searchable={property.choices(index).length > 8} onChange={(v) => { if (v !== null) onChange(v); }} comboboxProps={{ width: 200, position: 'bottom-end' }} />;
    case 'number': return <NumberField label={label} unit={unit} value={Number(value)} min={property.min} max={property.max} step={property.step} onChange={onChange} />;
  }
}

/** Takes a colour when picking ends, when it is left, or Enter is pressed. */
function ColorField({ label, value, onChange }: { label: string; value: string; onChange: (hex: string) => void }) {
  const [text, setText] = useState(value);
  useEffect(() => setText(value), [value]);
  const commit = (v: string) => { if (/^#[0-9a-f]{6}$/i.test(v) && v.toLowerCase() !== value) onChange(v.toLowerCase()); };
  return <ColorInput size="xs" aria-label={label} format="hex" withEyeDropper={false} value={text} onChange={setText} onChangeEnd={commit} onBlur={() => commit(text)} onKeyDown={(e) => { if (e.key === 'Enter') commit(text); }} />;
}

/** Takes a number when it is left or Enter is pressed; arrows step it. Out of range it goes to the nearest end. */
function NumberField({ label, unit, value, min, max, step, onChange }: { label: string; unit: string; value: number; min: number; max: number; step: number; onChange: (v: number) => void }) {
  const commit = (text: string) => { const v = Number.parseFloat(text); if (Number.isFinite(v)) onChange(Math.min(max, Math.max(min, v))); };
  return (
    <NumberInput key={value} size="xs" aria-label={label} defaultValue={Number(value.toPrecision(6))} min={min} max={max} step={step} decimalScale={5} suffix={unit ? ` ${unit}` : ''} hideControls clampBehavior="blur" styles={{ input: { textAlign: 'right', fontFamily: 'var(--mono)' } }}
      onBlur={(e) => commit(e.currentTarget.value)} onKeyDown={(e) => { if (e.key === 'Enter') commit(e.currentTarget.value); if (e.key === 'Escape') e.currentTarget.blur(); }} />
  );
}
