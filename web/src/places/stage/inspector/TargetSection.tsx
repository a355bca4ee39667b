// The values of one target, by the headings that its properties name.
import { IconChevronDown, IconChevronRight } from '@tabler/icons-react';
import { type Property, parseTarget, propertiesFor, targetLabel } from '@variscen/core/looks';
import { type ReactNode, useState } from 'react';
import { CopiesPanel } from './CopiesPanel.tsx';
import { DaylightClock } from './DaylightClock.tsx';
import styles from './Inspector.module.css';
import { ValueRow } from './ValueRow.tsx';
import type { Inspected } from './inspected.ts';

export function TargetSection({
  titled,
  target,
  onlyChanged,
  ...p
}: Inspected & { target: string; titled: boolean; onlyChanged: boolean }) {
  const get = (id: string) => p.state.get(target, id);
  const changed = (q: Property) => p.state.provenance(target, q.id) !== undefined;
  const listed = propertiesFor(p.index, target).filter((q) => !q.unlisted);
  const properties = listed.filter((q) => (onlyChanged ? changed(q) : changed(q) || !q.counts || q.counts(get)));
  if (!properties.length) return null;
  const row = (property: Property) => <ValueRow key={property.id} {...p} target={target} property={property} />;
  const sections = [...new Set(properties.map((q) => q.section).filter((x) => x !== undefined))];
  return (
    <section>
      {titled && (
        <>
          <hr className="hair" />
          <h4>Material “{targetLabel(target)}”, wherever it is worn</h4>
        </>
      )}
      {properties.filter((q) => q.section === undefined).map(row)}
      {sections.map((title) => {
        const own = properties.filter((q) => q.section === title);
        return (
          <Fold key={title} title={title} forced={onlyChanged || own.some(changed)}>
            {own.map(row)}
            {title === 'Copies' && (
              <CopiesPanel
                index={p.index}
                state={p.state}
                path={parseTarget(target)!.name}
                record={p.record}
                onSelect={p.onSelect}
              />
            )}
            {title === 'Sun' && <DaylightClock state={p.state} record={p.record} />}
          </Fold>
        );
      })}
    </section>
  );
}
/**
 * Rows under a heading: closed until somebody opens them, which holds for all objects; what is changed is never hidden.
 */
function Fold({ title, forced, children }: { title: string; forced: boolean; children: ReactNode }) {
  const key = `variscen.fold.${title}`;
  const [open, setOpen] = useState(() => localStorage.getItem(key) === 'open');
  const shown = open || forced;
  return (
    <div>
      <button
        type="button"
        aria-expanded={shown}
        disabled={forced}
        onClick={() => {
          localStorage.setItem(key, open ? '' : 'open');
          setOpen(!open);
        }}
        className={styles.shown}
      >
        {shown ? <IconChevronDown size={12} /> : <IconChevronRight size={12} />}
        {title}
      </button>
      {shown && children}
    </div>
  );
}
