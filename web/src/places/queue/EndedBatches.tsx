// What came of the batches that ended last.
import { Modal } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import type { BatchSummary } from '@variscen/contract';
import { useState } from 'react';
import { Link } from 'react-router';
import { call } from '../../api/client.ts';
import { keys } from '../../api/queries.ts';
import { bytes, count, duration, percent, plural } from '../../ui/format.ts';
import styles from './QueuePlace.module.css';

export function EndedBatches() {
  const { data } = useQuery({ queryKey: [...keys.queue, 'ended-batches'], queryFn: () => call('endedBatches', {}) });
  const [openId, setOpenId] = useState<string | null>(null);
  const open = data?.find((b) => b.id === openId);
  if (!data?.length) return null;
  return (
    <section aria-label="Ended batches">
      <h4>Ended lately</h4>
      {data.map((b) => (
        <div key={b.id} className={styles.box} role="group" aria-label={nameOf(b)}>
          <button type="button" className={styles.ended} onClick={() => setOpenId(b.id)}>
            <span className="ellipsis">{nameOf(b)}</span>
          </button>
          <div className="dim">{shortOf(b)}</div>
        </div>
      ))}
      {open && <Summary batch={open} onClose={() => setOpenId(null)} />}
    </section>
  );
}
const nameOf = (b: BatchSummary): string => `${b.projectName}, ${b.profileName}`;
function shortOf({ cells: { done, failed, cancelled } }: BatchSummary): string {
  return [
    `${count(done)} done`,
    ...(failed ? [`${count(failed)} failed`] : []),
    ...(cancelled ? [`${count(cancelled)} cancelled`] : []),
  ].join(' · ');
}

function Summary({ batch: b, onClose }: { batch: BatchSummary; onClose: () => void }) {
  return (
    <Modal opened onClose={onClose} title={nameOf(b)} size={640}>
      <p>{b.text}</p>
      <table className="rows">
        <tbody>
          <Figure what="Queued" value={timeOf(b.createdAt)} />
          {b.endedAt !== null && <Figure what="Ended" value={timeOf(b.endedAt)} />}
          <Figure what="Rendering took" value={duration(b.tookS)} />
          {b.estimates.traces > 0 && <Figure what="Expected beforehand" value={expectedOf(b.estimates)} />}
          <Figure what="Most memory" value={b.peakBytes > 0 ? bytes(b.peakBytes) : '—'} />
          <Figure what="Files" value={bytes(b.fileBytes)} />
        </tbody>
      </table>
      {b.failed.length > 0 && (
        <>
          <h4>Failed</h4>
          <table className="rows">
            <tbody>
              {b.failed.map((f) => (
                <tr key={f.traceId}>
                  <td>{f.cells}</td>
                  <td>{f.error}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
      <p>
        <Link className={styles.ended} to={`/projects/${b.projectId}/board`}>
          Open the board
        </Link>
      </p>
    </Modal>
  );
}
const Figure = ({ what, value }: { what: string; value: string }) => (
  <tr>
    <td className="dim">{what}</td>
    <td className="mono">{value}</td>
  </tr>
);
const expectedOf = ({ traces, expectedS, tookS, well }: BatchSummary['estimates']): string =>
  `${duration(expectedS)} for what took ${duration(tookS)}; ${percent(well / traces)} of ${plural(traces, 'trace')} within a quarter`;
const timeOf = (iso: string): string => new Date(iso).toLocaleString('en', { dateStyle: 'medium', timeStyle: 'short' });
