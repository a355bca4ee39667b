// What takes space on the disks, by project; what is made again when it is needed may go.
import { Modal } from '@mantine/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { StorageUses } from '@variscen/contract';
import { useState } from 'react';
import { call } from '../../api/client.ts';
import { bytes } from '../../ui/format.ts';
import { say, sayError } from '../../ui/notify.ts';
import styles from './DataFolder.module.css';

type OfProject = StorageUses['projects'][number];
type Amount = 'pictures' | 'aside' | 'deliveries' | 'references' | 'films' | 'tiles';
const COLUMNS: readonly { readonly of: Amount; readonly name: string; readonly title: string }[] = [
  { of: 'pictures', name: 'Pictures', title: 'Their files, and of them those of older versions alone' },
  { of: 'aside', name: 'Cleaned up', title: 'Put aside for a week, then gone' },
  { of: 'deliveries', name: 'Deliveries', title: 'Folders and zips' },
  { of: 'references', name: 'References', title: 'Pictures of others that are compared with' },
  { of: 'films', name: 'Films', title: 'Of slices of what is being rendered' },
  { of: 'tiles', name: 'Tiles', title: 'Made of pictures to look at them' },
];
const WORDS = { tiles: 'Tiles of pictures', evidence: 'Measured evidence' } as const;
const UNTIL = {
  tiles: 'A picture takes a moment longer when it is opened again.',
  evidence: 'What cameras need is measured again before it is culled by evidence.',
} as const;

export function SpaceUses({ onClose }: { onClose: () => void }) {
  const client = useQueryClient();
  const queryKey = ['storage', 'uses'];
  const { data, error } = useQuery({ queryKey, staleTime: 0, queryFn: () => call('storageUses', {}) });
  const [isBusy, setBusy] = useState(false);
  const drop = async (what: keyof typeof WORDS) => {
    setBusy(true);
    try {
      const dropped = await call('dropMade', { body: { what } });
      say(`${bytes(dropped.bytes)} are free again`, UNTIL[what]);
      await client.invalidateQueries({ queryKey });
    } catch (e) {
      sayError(e);
    } finally {
      setBusy(false);
    }
  };
  const tiles = data?.projects.reduce((n, p) => n + p.tiles, 0) ?? 0;
  return (
    <Modal opened onClose={onClose} title="What takes space" size={860}>
      {error && <p className="notice">{error.message}</p>}
      {data && <Table projects={data.projects} />}
      {data && (
        <ul className={styles.made}>
          <Made what="tiles" amount={tiles} isBusy={isBusy} onDrop={drop} />
          <Made what="evidence" amount={data.evidence} isBusy={isBusy} onDrop={drop} />
          <li>
            <span>Meshes and textures as they are loaded, of all projects</span>
            <b className="mono">{bytes(data.parts)}</b>
            <span className="faint">those not used for longest go by themselves</span>
          </li>
        </ul>
      )}
    </Modal>
  );
}

function Table({ projects }: { projects: readonly OfProject[] }) {
  return (
    <table className="rows">
      <thead>
        <tr>
          <th>Project</th>
          {COLUMNS.map((c) => (
            <th key={c.of} className="n" title={c.title}>
              {c.name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {projects.map((p) => (
          <tr key={p.projectId}>
            <td className="ellipsis">{p.name}</td>
            {COLUMNS.map(({ of }) => (
              <td key={of} className="n mono">
                {p[of] > 0 ? bytes(p[of]) : <span className="faint">–</span>}
                {of === 'pictures' && p.older > 0 && <div className="faint">{bytes(p.older)} older</div>}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

interface MadeProps {
  readonly what: keyof typeof WORDS;
  readonly amount: number;
  readonly isBusy: boolean;
  readonly onDrop: (what: keyof typeof WORDS) => Promise<void>;
}
function Made({ what, amount, isBusy, onDrop }: MadeProps) {
  return (
    <li>
      <span>{WORDS[what]}, of all projects</span>
      <b className="mono">{bytes(amount)}</b>
      <button type="button" className="quiet" disabled={isBusy || amount === 0} onClick={() => void onDrop(what)}>
        Remove
      </button>
    </li>
  );
}
