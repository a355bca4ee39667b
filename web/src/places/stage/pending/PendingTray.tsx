// Edits that are captured but not kept: each as "object, property, was → is"; kept, kept as options, moved, or
// discarded, one by one or all.
import type { Project, Variant } from '@variscen/contract';
import { type Change, type SceneIndex, propertyOf } from '@variscen/core/looks';
import { type RefObject, useEffect, useImperativeHandle, useState } from 'react';
import { say } from '../../../ui/notify.ts';
import { KeepAs } from './KeepAs.tsx';
import { PendingDialog } from './PendingDialog.tsx';
import { PendingRows } from './PendingRows.tsx';
import { QuickName, TrayActions } from './TrayActions.tsx';
import { type Destination } from '../../../model/destinations.ts';
import { type ProjectSession } from '../../../session/projectSession.ts';
import styles from './PendingTray.module.css';

export interface TrayHandle {
  quickKeep(): void;
}
interface Props {
  project: Project;
  index: SceneIndex | undefined;
  destination: Destination;
  variant: Variant;
  pending: readonly Change[];
  elsewhere: number;
  session: ProjectSession;
  handle: RefObject<TrayHandle | null>;
  onKept: (kept: { optionIds: readonly string[]; variantId: string | null }) => void;
}

export function PendingTray(props: Props) {
  const { project, index, destination, variant, pending, elsewhere, session, handle, onKept } = props;
  const [keepingAs, setKeepingAs] = useState(false);
  const [all, setAll] = useState(false);
  const [naming, setNaming] = useState<'no' | 'asking' | 'keeping'>('no');
  const none = pending.length === 0;
  useImperativeHandle(
    handle,
    () => ({
      quickKeep: () => {
        if (none)
          say('Nothing is pending here', `Edits go to ${destination.label}; the shortcut keeps what you change there.`);
        else setNaming((n) => (n === 'keeping' ? n : 'asking'));
      },
    }),
    [none, destination.label],
  );
  // the name is of these edits: those of another destination, or later ones, ask anew
  useEffect(() => setNaming('no'), [none, destination.id]);
  const facets = [...new Set(pending.map((c) => propertyOf(c.property)?.facet).filter((f) => f !== undefined))];
  const quick = async (name: string, withVariant: boolean) => {
    if (naming === 'keeping') return;
    if (!name.trim()) {
      setNaming('no');
      return;
    }
    setNaming('keeping');
    const kept = await session.keep(
      destination.id,
      {
        as: facets.map((facet) => ({ facet, name: name.trim() })),
        ...(withVariant && { variant: { fromVariantId: variant.id } }),
      },
      onKept,
    );
    const next = kept ? 'no' : 'asking';
    setNaming((n) => (n === 'keeping' ? next : n));
  };
  return (
    <section aria-label="Pending edits" className={styles.pendingEdits}>
      <div className={styles.pending}>
        <h4 className={`ellipsis ${styles.heading}`}>
          {pending.length ? `Pending in ${destination.label}` : 'Nothing pending'}
        </h4>
        {(pending.length > 1 || elsewhere > 0) && (
          <button type="button" className={styles.elsewhere} onClick={() => setAll(true)}>
            {elsewhere > 0 ? `${elsewhere} elsewhere` : 'All'}
          </button>
        )}
      </div>
      <PendingRows project={project} index={index} destination={destination} pending={pending} session={session} />
      {!none &&
        (naming === 'no' ? (
          <TrayActions
            changes={pending.length}
            onKeep={() => void session.keep(destination.id, {})}
            onKeepAs={() => setKeepingAs(true)}
            onDiscard={() => session.discard(destination.id, 'all')}
          />
        ) : (
          <QuickName
            changes={pending.length}
            onName={(name, withVariant) => void quick(name, withVariant)}
            onCancel={() => setNaming('no')}
          />
        ))}
      {keepingAs && (
        <KeepAs
          project={project}
          index={index}
          destination={destination.id}
          variant={variant}
          pending={pending}
          session={session}
          onClose={() => setKeepingAs(false)}
          onKept={(k) => {
            setKeepingAs(false);
            onKept(k);
          }}
        />
      )}
      {all && <PendingDialog project={project} index={index} session={session} onClose={() => setAll(false)} />}
    </section>
  );
}
