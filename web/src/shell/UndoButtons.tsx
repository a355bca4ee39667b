// Undo and redo of the open project, by button and by Ctrl+Z, Ctrl+Shift+Z or Ctrl+Y, wherever one is in it; and the
// list of all edits.
import { IconArrowBackUp, IconArrowForwardUp, IconHistory } from '@tabler/icons-react';
import { type ReactNode, useEffect, useState } from 'react';
import { useProject } from '../api/queries.ts';
import { typing } from '../ui/typing.ts';
import { HistoryPanel } from './HistoryPanel.tsx';
import styles from './UndoButtons.module.css';
import { type Way, useTurn } from './useTurn.ts';

export function UndoButtons({ projectId }: { projectId: string }) {
  const { data: project } = useProject(projectId);
  const [listed, setListed] = useState(false);
  const { undo = null, redo = null, last = '' } = project?.history ?? {};
  const turn = useTurn(projectId);
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const way = typing(e.target) ? null : wayOf(e);
      if (!way) return;
      e.preventDefault();
      void turn(way);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  });
  return (
    <div className={styles.buttons}>
      {listed && (
        <HistoryPanel
          projectId={projectId}
          last={`${last} ${undo ?? ''} ${redo ?? ''}`}
          onClose={() => setListed(false)}
        />
      )}
      <Tool label="History" title="History of edits" pressed={listed} onClick={() => setListed(!listed)}>
        <IconHistory size={18} stroke={1.5} />
      </Tool>
      <Tool
        label={undo === null ? 'Nothing to undo' : `Undo: ${undo}`}
        keys="Ctrl+Z"
        disabled={undo === null}
        onClick={() => void turn('undo')}
      >
        <IconArrowBackUp size={19} stroke={1.5} />
      </Tool>
      <Tool
        label={redo === null ? 'Nothing to redo' : `Redo: ${redo}`}
        keys="Ctrl+Shift+Z"
        disabled={redo === null}
        onClick={() => void turn('redo')}
      >
        <IconArrowForwardUp size={19} stroke={1.5} />
      </Tool>
    </div>
  );
}

interface ToolProps {
  label: string;
  title?: string;
  keys?: string;
  pressed?: boolean;
  disabled?: boolean;
  onClick: () => void;
  children: ReactNode;
}
function Tool({ label, title, keys, pressed, disabled = false, onClick, children }: ToolProps) {
  const said = title ?? (disabled || !keys ? label : `${label} (${keys})`);
  return (
    <button
      type="button"
      className="tool"
      aria-label={label}
      title={said}
      aria-pressed={pressed}
      disabled={disabled}
      onClick={onClick}
    >
      {children}
    </button>
  );
}

function wayOf(e: KeyboardEvent): Way | null {
  if (!(e.ctrlKey || e.metaKey) || e.altKey) return null;
  const key = e.key.toLowerCase();
  if (key === 'y') return 'redo';
  if (key !== 'z') return null;
  return e.shiftKey ? 'redo' : 'undo';
}
