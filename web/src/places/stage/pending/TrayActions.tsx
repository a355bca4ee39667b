// What is done with all that is pending; and the name that the shortcut keeps it under.
import { plural } from '../../../ui/format.ts';
import styles from './PendingTray.module.css';

interface ActionsProps {
  changes: number;
  onKeep: () => void;
  onKeepAs: () => void;
  onDiscard: () => void;
}
export function TrayActions({ changes, onKeep, onKeepAs, onDiscard }: ActionsProps) {
  return (
    <div className={styles.actions}>
      <button type="button" className={`go ${styles.go}`} onClick={onKeep}>
        Keep {plural(changes, 'change')}
      </button>
      <button
        type="button"
        className={`quiet ${styles.quiet}`}
        title="As new options (Ctrl+Enter keeps them under one name)"
        onClick={onKeepAs}
      >
        Keep as…
      </button>
      <button type="button" className={`quiet ${styles.quiet}`} onClick={onDiscard}>
        Discard
      </button>
    </div>
  );
}

interface NameProps {
  changes: number;
  onName: (name: string, withVariant: boolean) => void;
  onCancel: () => void;
}
export function QuickName({ changes, onName, onCancel }: NameProps) {
  const words = `Name to keep ${plural(changes, 'change')} under`;
  return (
    <form
      className={styles.row}
      onSubmit={(e) => {
        e.preventDefault();
        onName(new FormData(e.currentTarget).get('name') as string, false);
      }}
    >
      <input
        autoFocus
        name="name"
        aria-label={words}
        placeholder={words}
        maxLength={120}
        title="Enter keeps it as an option, Shift+Enter with a variant too"
        onKeyDown={(e) => {
          if (e.key === 'Escape') onCancel();
          if (e.key !== 'Enter' || !e.shiftKey) return;
          e.preventDefault();
          onName(e.currentTarget.value, true);
        }}
        className={styles.field}
      />
      <button type="submit" className={`go ${styles.go}`} title="Shift+Enter makes a variant with it, too">
        Keep
      </button>
    </form>
  );
}
