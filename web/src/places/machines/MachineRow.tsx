// A machine's row: what it does and has done, and what people can set for it.
import { Menu } from '@mantine/core';
import type { MachineToken, NodeHours, RenderNode } from '@variscen/contract';
import { useState } from 'react';
import { bytes, count, duration, plural } from '../../ui/format.ts';
import { HoursDialog } from '../queue/HoursDialog.tsx';
import { NODE_WORDS } from '../queue/words.ts';
import { MemoryDialog } from './MemoryDialog.tsx';
import { RemoveMachine } from './RemoveMachine.tsx';
import { TokenDialog } from './TokenDialog.tsx';
import type { MachineDoing } from './useMachineActions.ts';
import styles from './MachinesPlace.module.css';

const HOUR_MS = 3_600_000;
type Open = 'hours' | 'memory' | 'remove' | null;

export function MachineRow({ machine: m, actions }: { machine: RenderNode; actions: MachineDoing }) {
  const [open, setOpen] = useState<Open>(null);
  const [token, setToken] = useState<MachineToken | null>(null);
  const close = () => setOpen(null);
  const keepHours = (hours: NodeHours) => {
    close();
    void actions.setHours(m.name, hours);
  };
  const isHeld = m.hours.notUntil !== null && Date.parse(m.hours.notUntil) > Date.now();
  const notNow = () => keepHours({ ...m.hours, notUntil: new Date(Date.now() + HOUR_MS).toISOString() });
  const set = (values: Partial<Pick<RenderNode, 'isDrained' | 'budgetMib'>>) => void actions.set({ ...m, ...values });
  return (
    <tr>
      <td className={styles.name}>
        {m.name}
        {m.isOwn && <div className="dim">Variscen runs here</div>}
      </td>
      <td>
        {NODE_WORDS[m.state]}
        {m.why && m.state !== 'never' && m.state !== 'gone' && <div className="dim">{m.why}</div>}
      </td>
      <td className={`mono ${styles.figure}`}>{threadsOf(m)}</td>
      <td className={`mono ${styles.figure}`}>
        <Memory machine={m} />
      </td>
      <td className={`mono ${styles.figure}`}>
        {m.work.seconds > 0 ? `${count(Math.round(m.work.paths / m.work.seconds / 1000))} k paths/s` : '—'}
      </td>
      <td className={`mono ${styles.figure}`}>
        <Rendered machine={m} />
      </td>
      <td>{m.seenAt === null ? 'Never' : <time dateTime={m.seenAt}>{ago(m.seenAt)}</time>}</td>
      <td>
        <Menu position="bottom-end">
          <Menu.Target>
            <button type="button" className="tool" aria-label={`More for ${m.name}`}>
              ⋯
            </button>
          </Menu.Target>
          <Menu.Dropdown>
            <Menu.Item onClick={() => setOpen('hours')}>Working hours…</Menu.Item>
            {isHeld ? (
              <Menu.Item onClick={() => keepHours({ ...m.hours, notUntil: null })}>Render again now</Menu.Item>
            ) : (
              <Menu.Item onClick={notNow}>Not now, for an hour</Menu.Item>
            )}
            {m.isDrained ? (
              <Menu.Item onClick={() => set({ isDrained: false })}>Take work again</Menu.Item>
            ) : (
              <Menu.Item onClick={() => set({ isDrained: true })}>Finish, and take nothing more</Menu.Item>
            )}
            <Menu.Item onClick={() => setOpen('memory')}>Memory for a trace…</Menu.Item>
            {!m.isOwn && (
              <>
                <Menu.Divider />
                <Menu.Item onClick={() => void actions.renewToken(m.name).then(setToken)}>
                  Another token, instead of the present one
                </Menu.Item>
                <Menu.Item onClick={() => setOpen('remove')}>Remove the machine…</Menu.Item>
              </>
            )}
          </Menu.Dropdown>
        </Menu>
        {open === 'hours' && <HoursDialog node={m} onKeep={keepHours} onClose={close} />}
        {open === 'memory' && <MemoryDialog machine={m} onKeep={(budgetMib) => set({ budgetMib })} onClose={close} />}
        {open === 'remove' && <RemoveMachine machine={m} actions={actions} onClose={close} />}
        {token && <TokenDialog token={token} onClose={() => setToken(null)} />}
      </td>
    </tr>
  );
}

function threadsOf({ threads, threadsNow }: RenderNode): string {
  if (threads === 0) return '—';
  return threadsNow === threads ? `${threads}` : `${threadsNow} / ${threads}`;
}

function Memory({ machine: { usedBytes, budgetBytes, budgetMib } }: { machine: RenderNode }) {
  if (usedBytes === null && budgetBytes === null) return '—';
  return (
    <>
      {usedBytes === null ? '—' : bytes(usedBytes)}
      {budgetBytes !== null && (
        <div className="dim">
          {budgetMib === null ? 'up to' : 'set to'} {bytes(budgetBytes)}
        </div>
      )}
    </>
  );
}

function Rendered({ machine: { work } }: { machine: RenderNode }) {
  if (work.seconds === 0) return '—';
  return (
    <>
      {duration(work.seconds)}
      <div className="dim">
        {[
          ...(work.traces ? [plural(work.traces, 'trace')] : []),
          ...(work.slices ? [plural(work.slices, 'slice')] : []),
        ].join(', ')}
      </div>
    </>
  );
}

function ago(iso: string): string {
  const s = Math.max(0, (Date.now() - Date.parse(iso)) / 1000);
  return s < 5 ? 'Just now' : `${duration(s)} ago`;
}
