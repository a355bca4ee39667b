// Tools of the view: bring into view, handles, drop, and what others put beside them.
import { IconArrowBarToDown, IconArrowsMove, IconFocusCentered, IconResize, IconRotate } from '@tabler/icons-react';
import type { ReactNode } from 'react';
import type { HandleMode } from '../../../view3d/handles.ts';
import styles from './View.module.css';

const HANDLES = [
  ['move', 'Move', IconArrowsMove],
  ['turn', 'Rotate', IconRotate],
  ['scale', 'Scale', IconResize],
] as const;

interface Props {
  isAnythingSelected: boolean;
  handles: HandleMode | null;
  onHandles: (mode: HandleMode | null) => void;
  onIntoView: () => void;
  onDrop: () => void;
  live: boolean;
  onLive: (on: boolean) => void;
  children: ReactNode;
}
export function ViewTools(props: Props) {
  const { isAnythingSelected, handles, onHandles, onIntoView, onDrop, live, onLive, children } = props;
  return (
    <div className={styles.tools}>
      <button
        type="button"
        className={`quiet ${styles.bringIntoView}`}
        disabled={!isAnythingSelected}
        title="Bring what is selected into view (Enter in the tree)"
        aria-label="Bring into view"
        onClick={onIntoView}
      >
        <IconFocusCentered size={16} stroke={1.6} />
      </button>
      <div role="group" aria-label="Handles" className={styles.handles}>
        {HANDLES.map(([mode, word, Icon]) => (
          <button
            type="button"
            key={mode}
            className={`tool ${styles.tool}`}
            disabled={!isAnythingSelected}
            aria-pressed={handles === mode}
            aria-label={`${word} what is selected`}
            title={`${word} what is selected: Placement`}
            onClick={() => onHandles(handles === mode ? null : mode)}
          >
            <Icon size={15} stroke={1.6} />
          </button>
        ))}
        <button
          type="button"
          className={`tool ${styles.tool}`}
          disabled={!isAnythingSelected}
          aria-label="Drop what is selected"
          title="Drop onto what lies below: Placement"
          onClick={onDrop}
        >
          <IconArrowBarToDown size={15} stroke={1.6} />
        </button>
      </div>
      {children}
      <button
        type="button"
        className={`quiet ${styles.quiet2}`}
        aria-pressed={live}
        title="Render what the view shows with the engine of the batch, in this browser"
        onClick={() => onLive(!live)}
      >
        Live render
      </button>
    </div>
  );
}
