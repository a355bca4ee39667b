import styles from './Buttons.module.css';
/** The end of a dialog: cancel, and the one thing it does. Without onGo it submits its form. */
export const Buttons = ({
  label,
  onCancel,
  onGo,
  disabled,
}: {
  label: string;
  onCancel: () => void;
  onGo?: () => void;
  disabled?: boolean;
}) => (
  <div className={styles.row}>
    <button type="button" className="quiet" onClick={onCancel}>
      Cancel
    </button>
    <button type={onGo ? 'button' : 'submit'} className="go" disabled={disabled} onClick={onGo}>
      {label}
    </button>
  </div>
);
