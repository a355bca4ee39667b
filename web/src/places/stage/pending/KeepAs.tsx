// What was tried becomes options: one of each facet that was touched, and on wish a variant with all of them.
import { Checkbox, Modal, TextInput } from '@mantine/core';
import type { Project, Variant } from '@variscen/contract';
import {
  type Change,
  FACET_NAMES,
  type Facet,
  type SceneIndex,
  changeText,
  keyOf,
  propertyOf,
} from '@variscen/core/looks';
import { useState } from 'react';
import { plural } from '../../../ui/format.ts';
import { FACETS, FacetGlyph, facetOr } from '../../../ui/glyphs.tsx';
import { Buttons } from '../../../ui/Buttons.tsx';
import { PendingValue } from './PendingValue.tsx';
import { type ProjectSession, type Kept } from '../../../session/projectSession.ts';
import styles from './KeepAs.module.css';

/** More are kept or left together. */
const ONE_BY_ONE = 60;

export function KeepAs({
  project,
  index,
  destination,
  variant,
  pending,
  session,
  onClose,
  onKept,
}: {
  project: Project;
  index: SceneIndex | undefined;
  destination: string;
  variant: Variant;
  pending: readonly Change[];
  session: ProjectSession;
  onClose: () => void;
  onKept: (k: Kept) => void;
}) {
  const facets = FACETS.filter((f) => pending.some((c) => propertyOf(c.property)?.facet === f));
  const [names, setNames] = useState<Partial<Record<Facet, string>>>({});
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const [makeVariant, setMakeVariant] = useState(facets.length > 1);
  const [busy, setBusy] = useState(false);
  const of = (f: Facet) => pending.filter((c) => propertyOf(c.property)?.facet === f);
  const key = (c: Change) => keyOf(c.target, c.property);
  const wanted = (f: Facet) => of(f).filter((c) => !left.has(key(c)));
  const as = facets.flatMap((facet) => {
    const name = names[facet]?.trim();
    return name && wanted(facet).length ? [{ facet, name }] : [];
  });
  const only = as.flatMap(({ facet }) => wanted(facet));
  const taken = facets.filter((f) =>
    project.options.some((o) => o.facet === f && o.name.toLowerCase() === names[f]?.trim().toLowerCase()),
  );
  const keep = async () => {
    setBusy(true);
    await session.keep(
      destination,
      { as, only, ...(makeVariant && { variant: { fromVariantId: variant.id } }) },
      onKept,
    );
    setBusy(false);
  };
  return (
    <Modal opened onClose={onClose} title="Keep what you changed as new options" size={520}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void keep();
        }}
      >
        {facets.map((f, i) => (
          <fieldset key={f} className={styles.textInputFrame} data-facet={facetOr(f)}>
            <TextInput
              data-autofocus={i === 0 || undefined}
              label={
                <span className={`chip ${styles.chip}`}>
                  <FacetGlyph facet={f} />
                  {FACET_NAMES[f]} option
                </span>
              }
              aria-label={`Name of the ${FACET_NAMES[f]} option`}
              placeholder="No name: these stay pending"
              value={names[f] ?? ''}
              error={taken.includes(f) && 'That name is taken.'}
              onChange={(e) => {
                const name = e.currentTarget.value;
                setNames((n) => ({ ...n, [f]: name }));
              }}
              maxLength={120}
            />
            <div className={styles.box}>
              {of(f).length > ONE_BY_ONE ? (
                <p className={`dim ${styles.text}`}>{plural(of(f).length, 'change')}</p>
              ) : (
                of(f).map((c) => (
                  <div key={key(c)} className={styles.checkboxFrame}>
                    <Checkbox
                      size="xs"
                      label={changeText(c, index)}
                      checked={!left.has(key(c))}
                      onChange={() =>
                        setLeft((s) => {
                          const n = new Set(s);
                          if (!n.delete(key(c))) n.add(key(c));
                          return n;
                        })
                      }
                    />
                    <PendingValue project={project} index={index} destination={destination} change={c} />
                  </div>
                ))
              )}
            </div>
          </fieldset>
        ))}
        <Checkbox
          size="xs"
          label={`And a variant with ${as.length > 1 ? 'them' : 'it'}, like “${variant.name}”`}
          checked={makeVariant}
          onChange={(e) => setMakeVariant(e.currentTarget.checked)}
        />
        {pending.length > only.length && only.length > 0 && (
          <p className="dim">{plural(pending.length - only.length, 'change')} stay pending where they are.</p>
        )}
        <Buttons
          label={
            as.length ? `Keep ${plural(only.length, 'change')} as ${plural(as.length, 'option')}` : 'Keep as options'
          }
          disabled={!as.length || taken.length > 0 || busy}
          onCancel={onClose}
        />
      </form>
    </Modal>
  );
}
