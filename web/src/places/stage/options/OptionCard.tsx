// An option in the strip: its picture, its name, what is in it.
import { useSortable } from '@dnd-kit/sortable';
import { CSS } from '@dnd-kit/utilities';
import { Menu } from '@mantine/core';
import { IconNote } from '@tabler/icons-react';
import type { Tag } from '@variscen/contract';
import type { ReactNode } from 'react';
import { Print } from '../../../engine/smallPictures.tsx';
import styles from './Options.module.css';
import type { ShownPicture } from './useOptionPictures.ts';

export interface CardProps {
  id: string;
  title: string;
  note: string;
  on: boolean;
  used: boolean;
  picture: ShownPicture | undefined;
  notes?: string;
  tag?: Tag | null;
  pending?: number;
  onClick: () => void;
  menu?: ReactNode;
}
/** One that can be put elsewhere in the order. */
export function SortedCard(p: CardProps) {
  const { attributes, listeners, setNodeRef, transform, transition } = useSortable({ id: p.id });
  return (
    <div
      ref={setNodeRef}
      {...attributes}
      {...listeners}
      role="group"
      tabIndex={-1}
      aria-label={p.title}
      className={styles.group}
      style={{ transform: CSS.Translate.toString(transform), transition }}
    >
      <OptionCard {...p} />
    </div>
  );
}
export function OptionCard({ title, note, on, used, picture, notes, tag, pending = 0, onClick, menu }: CardProps) {
  return (
    <div className={styles.menu} data-on={on}>
      <button
        type="button"
        onClick={onClick}
        aria-pressed={on}
        title={`Edits go to ${title}${notes ? `\n${notes}` : ''}`}
        data-picture={picture && !picture.stale ? 'yes' : 'no'}
        className={styles.cardButton}
        data-on={used}
      >
        <span className={styles.picture}>{picture && <Print {...picture} />}</span>
        <span className={styles.text}>
          <span className={styles.tag}>
            <b className={`ellipsis ${styles.title}`}>{title}</b>
            {tag && <i title={`Tagged ${tag}`} className={styles.mark} data-tag={tag} />}
            {notes && <IconNote size={12} stroke={1.6} aria-label="has notes" className={styles.group} />}
          </span>
          <span className={`dim ellipsis ${styles.pending}`}>
            <span className="mono">{note}</span>
            {pending > 0 && <span className={`mono ${styles.cardPending}`}> +{pending}</span>}
            {used ? ' · in variant' : ''}
          </span>
        </span>
      </button>
      {menu && (
        <Menu position="top-end">
          <Menu.Target>
            <button
              type="button"
              aria-label={`More for ${title}`}
              onPointerDown={(e) => e.stopPropagation()}
              className={styles.cardMenu}
            >
              ⋯
            </button>
          </Menu.Target>
          <Menu.Dropdown onPointerDown={(e) => e.stopPropagation()}>{menu}</Menu.Dropdown>
        </Menu>
      )}
    </div>
  );
}
