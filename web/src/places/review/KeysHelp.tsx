// The keys of this place.
import { Popover } from '@mantine/core';
import { useEffect, useState } from 'react';
import { typing } from '../../ui/typing.ts';
import styles from './Toolbar.module.css';
import { REVIEW_KEYS } from './useReviewKeys.ts';

export function KeysHelp() {
  const [isOpen, setOpen] = useState(false);
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.key !== '?' || typing(e.target)) return;
      e.preventDefault();
      setOpen((o) => !o);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  return (
    <Popover opened={isOpen} onChange={setOpen} position="bottom-end" withinPortal>
      <Popover.Target>
        <button type="button" className="tool" aria-label="Keys" title="Keys: ?" onClick={() => setOpen((o) => !o)}>
          ?
        </button>
      </Popover.Target>
      <Popover.Dropdown>
        <dl className={styles.keys}>
          {REVIEW_KEYS.map(([keys, does]) => (
            <div key={keys}>
              <dt>
                <kbd>{keys}</kbd>
              </dt>
              <dd>{does}</dd>
            </div>
          ))}
        </dl>
      </Popover.Dropdown>
    </Popover>
  );
}
