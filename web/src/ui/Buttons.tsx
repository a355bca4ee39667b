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
  <div style={{ display: 'flex', gap: 8, justifyContent: 'flex-end', marginTop: 16 }}>
    <button type="button" className="quiet" onClick={onCancel}>
      Cancel
    </button>
    <button type={onGo ? 'button' : 'submit'} className="go" disabled={disabled} onClick={onGo}>
      {label}
    </button>
  </div>
);
