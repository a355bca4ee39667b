// The scene's hierarchy, virtualised: only rows on screen exist.
import { type ResolvedState, type SceneIndex, lightTarget, objectTarget, parseTarget } from '@variscen/core/looks';
import { useVirtualizer } from '@tanstack/react-virtual';
import { type KeyboardEvent, useDeferredValue, useEffect, useMemo, useRef, useState } from 'react';
import { count } from '../../shared/format.ts';
import { FacetGlyph, facetColor } from '../../shared/glyphs.tsx';
import { hierarchyOf, treeRows } from './treeRows.ts';

const ROW_PX = 26;
const WHOLE = [['environment', 'Environment', 'environment'], ['grade', 'Grade', 'grade']] as const;

export function Tree({ index, state, selected, onSelect }: { index: SceneIndex | undefined; state: ResolvedState | undefined; selected: string | null; onSelect: (target: string) => void }) {
  const [find, setFind] = useState(''), sought = useDeferredValue(find), [open, setOpen] = useState<ReadonlySet<number>>(new Set([0])), box = useRef<HTMLDivElement>(null), document = index?.document;
  const hierarchy = useMemo(() => document && hierarchyOf(document), [document]), rows = useMemo(() => (document && hierarchy ? treeRows(document, hierarchy, open, sought) : []), [document, hierarchy, open, sought]);
  const changed = useMemo(() => { const m = new Map<string, string>(); for (const v of state?.values.values() ?? []) if (v.layers.some((l) => l.kind !== 'base')) { const t = parseTarget(v.target)!; if (t.kind === 'object' || t.kind === 'light') m.set(t.name, v.property.facet); } return m; }, [state]);
  const list = useVirtualizer({ count: rows.length, getScrollElement: () => box.current, estimateSize: () => ROW_PX, overscan: 12 });
  const target = selected ? parseTarget(selected) : undefined, at = target && index ? index.nodes.get(target.name) : undefined;
  // what was picked in the view is unfolded and scrolled to
  useEffect(() => { if (at === undefined || !document) return; setOpen((o) => { const next = new Set(o); for (let p = document.nodes[at]!.parent; p >= 0; p = document.nodes[p]!.parent) next.add(p); return next.size === o.size ? o : next; }); }, [at, document]);
  const place = rows.findIndex((r) => r.node === at);
  useEffect(() => { if (place >= 0) list.scrollToIndex(place); }, [place]);
  const toggle = (n: number) => setOpen((o) => { const next = new Set(o); if (!next.delete(n)) next.add(n); return next; });
  const select = (n: number) => { const node = document!.nodes[n]!; onSelect(node.light !== undefined && !node.parts ? lightTarget(node.path) : objectTarget(node.path)); };
  const onKey = (e: KeyboardEvent) => {
    const row = rows[place];
    if (e.key === 'ArrowDown' || e.key === 'ArrowUp') { const next = rows[Math.min(rows.length - 1, Math.max(0, place + (e.key === 'ArrowDown' ? 1 : -1)))]; if (next) select(next.node); }
    else if (row && e.key === 'ArrowRight' && row.children && !row.open) toggle(row.node);
    else if (row && e.key === 'ArrowLeft') { if (row.open) toggle(row.node); else if (document!.nodes[row.node]!.parent >= 0) select(document!.nodes[row.node]!.parent); }
    else return;
    e.preventDefault();
  };
  return (
    <section aria-label="Scene" style={{ borderRight: '1px solid var(--line)', display: 'grid', gridTemplateRows: 'auto auto minmax(0, 1fr)', minHeight: 0 }}>
      <input value={find} onChange={(e) => setFind(e.currentTarget.value)} placeholder={document ? `Find among ${count(document.nodes.length)} parts` : 'Loading …'} aria-label="Find in the scene" style={{ margin: '10px 12px 8px', border: 0, borderBottom: '1px solid var(--line)', background: 'none', color: 'var(--ink)', font: 'inherit', padding: '4px 0' }} />
      <div style={{ paddingBottom: 6 }}>{WHOLE.map(([id, label, facet]) => <button type="button" key={id} onClick={() => onSelect(id)} aria-pressed={selected === id} style={{ display: 'flex', width: '100%', height: ROW_PX, alignItems: 'center', gap: 7, padding: '0 12px', background: selected === id ? 'var(--raised)' : undefined }}><span style={{ ...facetColor(facet), color: 'var(--fc)', lineHeight: 0 }}><FacetGlyph facet={facet} /></span>{label}</button>)}</div>
      <div ref={box} role="tree" aria-label="Objects" tabIndex={0} onKeyDown={onKey} style={{ overflow: 'auto', borderTop: '1px solid var(--line)' }}>
        <div style={{ height: list.getTotalSize(), position: 'relative' }}>
          {list.getVirtualItems().map((item) => {
            const row = rows[item.index]!, n = document!.nodes[row.node]!, facet = changed.get(n.path), hidden = state?.get(objectTarget(n.path), 'object.shown') === false;
            return (
              <div key={row.node} role="treeitem" aria-selected={row.node === at} aria-expanded={row.children ? row.open : undefined} aria-level={row.depth + 1} onClick={() => select(row.node)} onDoubleClick={() => row.children && toggle(row.node)}
                style={{ position: 'absolute', top: item.start, left: 0, right: 0, height: ROW_PX, display: 'flex', alignItems: 'center', gap: 5, padding: `0 10px 0 ${8 + row.depth * 13}px`, background: row.node === at ? 'var(--raised)' : undefined, color: hidden ? 'var(--faint)' : undefined, textDecoration: hidden ? 'line-through' : undefined, whiteSpace: 'nowrap', cursor: 'default' }}>
                <button type="button" tabIndex={-1} aria-label={row.open ? 'Fold' : 'Unfold'} onClick={(e) => { e.stopPropagation(); toggle(row.node); }} style={{ width: 14, color: 'var(--faint)', visibility: row.children ? 'visible' : 'hidden' }}>{row.open ? '▾' : '▸'}</button>
                <span className="ellipsis" title={n.path}>{n.name}</span>
                {facet && <i title={`Changed in this variant: ${facet}`} style={{ width: 6, height: 6, borderRadius: 3, background: `var(--${facet})`, flex: 'none' }} />}
                {row.children > 0 && <span className="mono faint" style={{ marginLeft: 'auto', fontSize: 11 }}>{count(hierarchy!.below[row.node]!)}</span>}
                {n.light !== undefined && <span className="faint" style={{ marginLeft: 'auto', fontSize: 11 }}>light</span>}
                {n.camera !== undefined && <span className="faint" style={{ marginLeft: 'auto', fontSize: 11 }}>camera</span>}
              </div>
            );
          })}
        </div>
        {sought && rows.length === 0 && <p className="dim" style={{ padding: '0 12px' }}>Nothing is called “{sought}”.</p>}
      </div>
    </section>
  );
}
