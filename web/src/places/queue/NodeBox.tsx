// A render node: what it does, how many of its threads may work now and why, and its working hours.
import { Menu } from '@mantine/core';
import type { NodeHours, RenderNode } from '@variscen/contract';
import { useState } from 'react';
import { HoursDialog } from './HoursDialog.tsx';
import type { QueueDoing } from './useQueueActions.ts';
import { NODE_WORDS } from './words.ts';
import styles from './QueuePlace.module.css';

const HOUR_MS = 3_600_000;

export function NodeBox({ node: n, actions }: { node: RenderNode; actions: QueueDoing }) {
  const [isOpen, setOpen] = useState(false);
  const keep = (hours: NodeHours) => {
    setOpen(false);
    void actions.setHours(n.name, hours);
  };
  const isHeld = n.hours.notUntil !== null && Date.parse(n.hours.notUntil) > Date.now();
  const notNow = () => keep({ ...n.hours, notUntil: new Date(Date.now() + HOUR_MS).toISOString() });
  return (
    <div className={styles.box} role="group" aria-label={n.name}>
      <div className={styles.batchName}>
        <span className="ellipsis">{n.name}</span>
        <Menu position="bottom-end">
          <Menu.Target>
            <button type="button" className="tool" aria-label={`More for ${n.name}`}>
              ⋯
            </button>
          </Menu.Target>
          <Menu.Dropdown>
            <Menu.Item onClick={() => setOpen(true)}>Working hours…</Menu.Item>
            {isHeld ? (
              <Menu.Item onClick={() => keep({ ...n.hours, notUntil: null })}>Render again now</Menu.Item>
            ) : (
              <Menu.Item onClick={notNow}>Not now, for an hour</Menu.Item>
            )}
          </Menu.Dropdown>
        </Menu>
      </div>
      <div className="dim">
        {NODE_WORDS[n.state]}
        {n.threads > 0 && (
          <>
            {' · '}
            <span className="mono">
              {n.threadsNow === n.threads ? n.threads : `${n.threadsNow} / ${n.threads}`}
            </span>{' '}
            {n.threads === 1 ? 'thread' : 'threads'}
          </>
        )}
      </div>
      {n.why && <div className="dim">{n.why}</div>}
      {isOpen && <HoursDialog node={n} onKeep={keep} onClose={() => setOpen(false)} />}
    </div>
  );
}
