// The machines that render: what each does, how fast it is, what it has done, and who else may join.
import { IconPlus } from '@tabler/icons-react';
import type { RenderNode } from '@variscen/contract';
import { useState } from 'react';
import { Link } from 'react-router';
import { useNodes } from '../../api/queries.ts';
import { plural } from '../../ui/format.ts';
import { AddMachine } from './AddMachine.tsx';
import { MachineRow } from './MachineRow.tsx';
import { useMachineActions } from './useMachineActions.ts';
import styles from './MachinesPlace.module.css';

export function MachinesPlace() {
  const { data } = useNodes();
  const actions = useMachineActions();
  const [isAdding, setAdding] = useState(false);
  return (
    <>
      <header className="sentence">{data && <Sentence machines={data} />}</header>
      <main className={`place ${styles.place}`}>
        <div className={styles.tools}>
          <button type="button" className={`quiet ${styles.tool}`} onClick={() => setAdding(true)}>
            <IconPlus size={14} stroke={1.6} />
            Add a machine
          </button>
        </div>
        {data && data.length > 0 && (
          <table className={`rows ${styles.table}`} aria-label="Machines">
            <thead>
              <tr>
                <th>Machine</th>
                <th>State</th>
                <th className={styles.figure}>Threads</th>
                <th className={styles.figure}>Memory</th>
                <th className={styles.figure}>Speed</th>
                <th className={styles.figure}>Rendered</th>
                <th>Last heard of</th>
                <th aria-label="More" />
              </tr>
            </thead>
            <tbody>
              {data.map((m) => (
                <MachineRow key={m.name} machine={m} actions={actions} />
              ))}
            </tbody>
          </table>
        )}
        {data?.length === 0 && <p className="dim">No machine has reported. Traces wait until one does.</p>}
        <p className={`dim ${styles.note}`}>
          A machine that has nothing to take helps another with a long trace, slice by slice. Speed is what its threads
          traced in a second while they worked, over all that it has done.
        </p>
      </main>
      {isAdding && <AddMachine onClose={() => setAdding(false)} actions={actions} />}
    </>
  );
}

function Sentence({ machines }: { machines: readonly RenderNode[] }) {
  const there = machines.filter((m) => m.state === 'idle' || m.state === 'rendering');
  const rendering = there.filter((m) => m.state === 'rendering');
  const away = machines.length - there.length;
  const render =
    rendering.length === 0 ? 'none renders' : `${rendering.length} ${rendering.length === 1 ? 'renders' : 'render'}`;
  return (
    <span>
      <b className="pick">{plural(there.length, 'machine')}</b> {there.length === 1 ? 'is' : 'are'} there, {render}
      {away > 0 && `; ${away} ${away === 1 ? 'is' : 'are'} away`}. What they render is in the{' '}
      <Link className="pick" to="/queue">
        queue
      </Link>
      .
    </span>
  );
}
