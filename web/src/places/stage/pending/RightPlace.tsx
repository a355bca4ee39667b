// An edit outside the destination's facet is not recorded silently: it asks where it belongs, and remembers the answer
// for the session where that is wished.
import { Checkbox, Modal } from '@mantine/core';
import { type Change, FACET_NAMES, type Facet, type Property, propertyOf } from '@variscen/core/looks';
import { useState } from 'react';
import { plural } from '../../../ui/format.ts';
import { type CurrentDestination, type Destination, fits } from '../../../model/destinations.ts';
import styles from './RightPlace.module.css';

/** Answers of this session: edits of a facet that the destination does not hold go there. */
const ALWAYS = new Map<string, string>();
export const alwaysFor = (projectId: string, facet: Facet): string | undefined => ALWAYS.get(`${projectId} ${facet}`);

function titleOf(from: CurrentDestination, property: Property | null | undefined): string {
  if (!property) return '';
  return from.isHere
    ? `${property.label} belongs to ${FACET_NAMES[property.facet]}`
    : `Where should ${property.label} go?`;
}

export function RightPlace({
  projectId,
  changes,
  from,
  destinations,
  inVariant,
  onClose,
  onPick,
  onNewOption,
}: {
  projectId: string;
  changes: readonly Change[] | null;
  from: CurrentDestination;
  destinations: readonly Destination[];
  inVariant: readonly string[];
  onClose: () => void;
  /** stay: the destination of further edits stays as it is. */
  onPick: (d: Destination, stay: boolean) => void;
  onNewOption: (facet: Facet, name: string) => void;
}) {
  const [always, setAlways] = useState(false);
  const change = changes?.[0] ?? null;
  const property = change && propertyOf(change.property);
  const facet = property?.facet;
  const used = (d: Destination) => inVariant.includes(d.id.slice(7));
  const right = destinations.filter((d) => change && fits(change, d)).sort((a, b) => Number(used(b)) - Number(used(a)));
  const pick = (d: Destination) => {
    if (always && facet) ALWAYS.set(`${projectId} ${facet}`, d.id);
    setAlways(false);
    onPick(d, always);
  };
  return (
    <Modal opened={change !== null} onClose={onClose} title={titleOf(from, property)}>
      <p className={`dim ${styles.editsGoTo}`}>
        Edits go to {from.label}, which{' '}
        {from.isHere ? `holds only ${from.facet ? FACET_NAMES[from.facet] : ''}` : 'is not what is shown here'}. Where
        should {changes && changes.length > 1 ? `these ${changes.length} go` : 'this one go'}?
      </p>
      <div className={styles.right}>
        {right.map((d) => (
          <button type="button" key={d.id} className="quiet" onClick={() => pick(d)}>
            {d.label}
            {used(d) && <span className="dim"> — in this variant</span>}
          </button>
        ))}
      </div>
      {facet && (
        <form
          className={styles.row}
          onSubmit={(e) => {
            e.preventDefault();
            const name = (new FormData(e.currentTarget).get('name') as string).trim();
            if (name) onNewOption(facet, name);
          }}
        >
          <input
            name="name"
            aria-label={`Name of a new ${FACET_NAMES[facet]} option`}
            placeholder={`A new ${FACET_NAMES[facet]} option`}
            maxLength={120}
            className={styles.field}
          />
          <button type="submit" className="quiet">
            Make it
          </button>
        </form>
      )}
      {facet && (
        <Checkbox
          mt={12}
          size="xs"
          label={`Always send edits of ${FACET_NAMES[facet]} there, until this page is closed`}
          checked={always}
          onChange={(e) => setAlways(e.currentTarget.checked)}
        />
      )}
      <p className={`dim ${styles.countLine}`}>{plural(right.length, 'destination')} can hold it.</p>
    </Modal>
  );
}
