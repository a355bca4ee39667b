// Edits that are captured but not kept: each as "object, property, was → is"; kept, kept as options, moved, or
// discarded, one by one or all.
import type { Project, Variant } from '@variscen/contract';
import { type Change, type SceneIndex, changeText, propertyOf } from '@variscen/core/looks';
import { IconCheck, IconX } from '@tabler/icons-react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { type RefObject, useEffect, useImperativeHandle, useRef, useState } from 'react';
import { plural } from '../../../ui/format.ts';
import { say } from '../../../ui/notify.ts';
import { KeepAs } from './KeepAs.tsx';
import { PendingDialog } from './PendingDialog.tsx';
import { PendingValue } from './PendingValue.tsx';
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

/** Thousands of edits may be pending: only rows on screen exist. */
const ROW_PX = 24;

export function PendingTray({
  project,
  index,
  destination,
  variant,
  pending,
  elsewhere,
  session,
  handle,
  onKept,
}: Props) {
  const [keepingAs, setKeepingAs] = useState(false);
  const [all, setAll] = useState(false);
  const [naming, setNaming] = useState<'no' | 'asking' | 'keeping'>('no');
  const box = useRef<HTMLDivElement>(null);
  const list = useVirtualizer({
    count: pending.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW_PX,
    overscan: 6,
  });
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
      <div ref={box} className={styles.scroll}>
        {pending.length > 0 && (
          <div className={styles.rows} style={{ height: list.getTotalSize() }}>
            {list.getVirtualItems().map((item) => {
              const c = pending[item.index]!;
              const text = changeText(c, index);
              return (
                <div
                  key={item.index}
                  className={styles.pendingValueFrame}
                  style={{ top: item.start, lineHeight: `${ROW_PX}px` }}
                >
                  <span className="ellipsis" title={`${text} (${c.target})`}>
                    {text}
                  </span>
                  <PendingValue project={project} index={index} destination={destination.id} change={c} />
                  <button
                    type="button"
                    aria-label={`Keep ${text}`}
                    title="Keep this one"
                    onClick={() => void session.keep(destination.id, { only: [c] })}
                    className={styles.keepThisOne}
                  >
                    <IconCheck size={13} />
                  </button>
                  <button
                    type="button"
                    aria-label={`Discard ${text}`}
                    title="Discard this one"
                    onClick={() => session.discard(destination.id, [c])}
                    className={styles.keepThisOne}
                  >
                    <IconX size={13} />
                  </button>
                </div>
              );
            })}
          </div>
        )}
        {!pending.length && (
          <p className={`dim ${styles.whatYouChange}`}>
            What you change is captured here first, then kept or discarded.
          </p>
        )}
      </div>
      {pending.length > 0 &&
        (naming !== 'no' ? (
          <form
            className={styles.row}
            onSubmit={(e) => {
              e.preventDefault();
              void quick(new FormData(e.currentTarget).get('name') as string, false);
            }}
          >
            <input
              autoFocus
              name="name"
              aria-label={`Name to keep ${plural(pending.length, 'change')} under`}
              placeholder={`Name to keep ${plural(pending.length, 'change')} under`}
              maxLength={120}
              title="Enter keeps it as an option, Shift+Enter with a variant too"
              onKeyDown={(e) => {
                if (e.key === 'Escape') setNaming('no');
                if (e.key === 'Enter' && e.shiftKey) {
                  e.preventDefault();
                  void quick(e.currentTarget.value, true);
                }
              }}
              className={styles.field}
            />
            <button type="submit" className={`go ${styles.go}`} title="Shift+Enter makes a variant with it, too">
              Keep
            </button>
          </form>
        ) : (
          <div className={styles.actions}>
            <button type="button" className={`go ${styles.go}`} onClick={() => void session.keep(destination.id, {})}>
              Keep {plural(pending.length, 'change')}
            </button>
            <button
              type="button"
              className={`quiet ${styles.quiet}`}
              title="As new options (Ctrl+Enter keeps them under one name)"
              onClick={() => setKeepingAs(true)}
            >
              Keep as…
            </button>
            <button
              type="button"
              className={`quiet ${styles.quiet}`}
              onClick={() => session.discard(destination.id, 'all')}
            >
              Discard
            </button>
          </div>
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
