// Undo and redo of the open project, by button and by Ctrl+Z, Ctrl+Shift+Z or Ctrl+Y, wherever one is in it.
import { IconArrowBackUp, IconArrowForwardUp, IconHistory } from '@tabler/icons-react';
import { useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { call } from '../api/client.ts';
import { keys, setProject, useProject } from '../api/queries.ts';
import { say, sayError } from '../ui/notify.ts';
import { typing } from '../ui/typing.ts';
import { HistoryPanel } from './HistoryPanel.tsx';

export function UndoButtons({ projectId }: { projectId: string }) {
  const client = useQueryClient();
  const { data: project } = useProject(projectId);
  const busy = useRef<Promise<unknown>>(Promise.resolve());
  const [listed, setListed] = useState(false);
  const turn = (way: 'undo' | 'redo') => {
    // one after another, however fast the keys are
    busy.current = busy.current.then(async () => {
      try {
        const r = await call(way, { params: { projectId } });
        setProject(client, r.project);
        void client.invalidateQueries({ queryKey: keys.board(projectId) });
        say(`${way === 'undo' ? 'Taken back' : 'Done again'}: ${r.label}`);
      } catch (e) {
        sayError(e);
      }
    });
  };
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (!(e.ctrlKey || e.metaKey) || e.altKey || typing(e.target)) return;
      const way =
        e.key.toLowerCase() === 'z' ? (e.shiftKey ? 'redo' : 'undo') : e.key.toLowerCase() === 'y' ? 'redo' : null;
      if (way) {
        e.preventDefault();
        turn(way);
      }
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  });
  const { undo = null, redo = null } = project?.history ?? {};
  return (
    <div style={{ marginTop: 'auto', display: 'grid', gap: 2 }}>
      {listed && (
        <HistoryPanel
          projectId={projectId}
          last={`${project?.history.last ?? ''} ${undo ?? ''} ${redo ?? ''}`}
          onClose={() => setListed(false)}
        />
      )}
      <button
        type="button"
        className="tool"
        aria-pressed={listed}
        aria-label="History"
        title="History of edits"
        onClick={() => setListed(!listed)}
      >
        <IconHistory size={18} stroke={1.5} />
      </button>
      <button
        type="button"
        className="tool"
        disabled={undo === null}
        aria-label={undo === null ? 'Nothing to undo' : `Undo: ${undo}`}
        title={undo === null ? 'Nothing to undo' : `Undo: ${undo} (Ctrl+Z)`}
        onClick={() => turn('undo')}
      >
        <IconArrowBackUp size={19} stroke={1.5} />
      </button>
      <button
        type="button"
        className="tool"
        disabled={redo === null}
        aria-label={redo === null ? 'Nothing to do again' : `Redo: ${redo}`}
        title={redo === null ? 'Nothing to do again' : `Redo: ${redo} (Ctrl+Shift+Z)`}
        onClick={() => turn('redo')}
      >
        <IconArrowForwardUp size={19} stroke={1.5} />
      </button>
    </div>
  );
}
