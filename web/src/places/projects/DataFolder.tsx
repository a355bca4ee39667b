// What lies in the data folder: how much, what nothing refers to any more, and whether it is as it was stored.
import { Modal } from '@mantine/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { NotSoundContent } from '@variscen/contract';
import { useState } from 'react';
import { call } from '../../api/client.ts';
import { bytes, count, plural } from '../../ui/format.ts';
import { say, sayError } from '../../ui/notify.ts';
import styles from './DataFolder.module.css';
import { SpaceUses } from './SpaceUses.tsx';

const FAULT_WORDS: Readonly<Record<NotSoundContent['fault'], string>> = { gone: 'Missing', damaged: 'Damaged' };
type Work = 'nothing' | 'checking' | 'removing';

export function DataFolder() {
  const client = useQueryClient();
  const { data } = useQuery({ queryKey: ['storage'], queryFn: () => call('storage', {}) });
  const [isUsesOpen, setUsesOpen] = useState(false);
  const [work, setWork] = useState<Work>('nothing');
  const [found, setFound] = useState<readonly NotSoundContent[] | null>(null);
  const doing = async (what: Work, then: () => Promise<void>) => {
    setWork(what);
    try {
      await then();
    } catch (e) {
      sayError(e);
    } finally {
      setWork('nothing');
    }
  };
  const check = () =>
    doing('checking', async () => {
      const { files, notSound } = await call('verifyStorage', {});
      if (notSound.length) setFound(notSound);
      else say('The data folder is sound', `${count(files)} files are as they were stored.`);
    });
  const remove = () =>
    doing('removing', async () => {
      const removed = await call('removeUnused', {});
      say(`${plural(removed.files, 'file')} removed`, `${bytes(removed.bytes)} are free again.`);
      await client.invalidateQueries({ queryKey: ['storage'] });
    });
  if (!data) return null;
  return (
    <section aria-label="Data folder" className={styles.folder}>
      <h4>Data folder</h4>
      <p>
        <b className="mono">{bytes(data.bytes)}</b> of scenes, maps and images in {plural(data.files, 'file')};{' '}
        <b className="mono">{bytes(data.freeBytes)}</b> are free on its disk.
      </p>
      <p className="dim">
        {data.unusedFiles
          ? `${bytes(data.unusedBytes)} of it nothing refers to: no project, no step of a history, no library entry, no queued trace.`
          : 'Something refers to all of it.'}{' '}
        What nothing refers to may be removed after {data.keptDays} days.
      </p>
      <div className={styles.actions}>
        <button type="button" className="quiet" disabled={work !== 'nothing'} onClick={() => void check()}>
          {work === 'checking' ? 'Checking …' : 'Check all files'}
        </button>
        <button type="button" className="quiet" onClick={() => setUsesOpen(true)}>
          What takes space…
        </button>
        {data.unusedFiles > 0 && (
          <button type="button" className="quiet" disabled={work !== 'nothing'} onClick={() => void remove()}>
            Remove {bytes(data.unusedBytes)}
          </button>
        )}
      </div>
      {isUsesOpen && <SpaceUses onClose={() => setUsesOpen(false)} />}
      <Modal opened={found !== null} onClose={() => setFound(null)} title="Not as it was stored" size={720}>
        <p>Import what these came from again, or restore the data folder from a copy.</p>
        <table className="rows">
          <thead>
            <tr>
              <th>Fault</th>
              <th>What</th>
              <th>Used by</th>
            </tr>
          </thead>
          <tbody>
            {found?.map((x) => (
              <tr key={x.hash}>
                <td>{FAULT_WORDS[x.fault]}</td>
                <td title={x.hash}>{x.what}</td>
                <td>{x.usedBy.join(', ') || '—'}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </Modal>
    </section>
  );
}
