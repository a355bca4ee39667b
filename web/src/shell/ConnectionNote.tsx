// Says when edits wait for a server that does not answer. They are sent in their order as soon as it does.
import { tryAllNow } from '../session/writeQueue.ts';
import { type ProjectSession, useQueueState } from '../session/projectSession.ts';
import { plural } from '../ui/format.ts';
import styles from './ConnectionNote.module.css';

export function ConnectionNote({ session }: { session: ProjectSession }) {
  const state = useQueueState(session);
  return (
    <div role="status" className={styles.place}>
      {state.kind === 'unreachable' && (
        <div className={styles.note}>
          <b>The server does not answer.</b> {plural(state.unsent, 'edit')} {state.unsent === 1 ? 'waits' : 'wait'} here
          and will be sent when it does. Leave this window open.
          <button type="button" className="quiet" onClick={tryAllNow}>
            Try now
          </button>
        </div>
      )}
    </div>
  );
}
