import { IconClipboard, IconCopy } from '@tabler/icons-react';
import { useMemo } from 'react';
import { pasted, useClipboard, valuesOf } from '../../../model/clipboard.ts';
import { plural } from '../../../ui/format.ts';
import { say } from '../../../ui/notify.ts';
import type { Inspected } from './inspected.ts';

/** Values in force are copied from what is selected and set on other things, as pending edits. */
export function CopyPaste({
  index,
  state,
  targets,
  from,
  record,
}: Inspected & { targets: readonly string[]; from: string }) {
  const { copied, copy } = useClipboard();
  const paste = useMemo(() => (copied ? pasted(copied, index, state, targets) : []), [copied, index, state, targets]);
  return (
    <>
      <button
        type="button"
        className="tool"
        aria-label={`Copy the values of ${from}`}
        title="Copy its values (Ctrl+C)"
        onClick={() => {
          copy({ from, changes: valuesOf(index, state, targets) });
          say(`The values of ${from} are copied`, 'Select other objects and paste them there.');
        }}
      >
        <IconCopy size={15} stroke={1.6} />
      </button>
      <button
        type="button"
        className="tool"
        disabled={!paste.length}
        aria-label={copied ? `Paste ${plural(paste.length, 'value')} of ${copied.from}` : 'Nothing to paste'}
        title={copied ? `Paste ${plural(paste.length, 'value')} of ${copied.from} (Ctrl+V)` : 'Nothing is copied yet'}
        onClick={() => record(paste)}
      >
        <IconClipboard size={15} stroke={1.6} />
      </button>
    </>
  );
}
