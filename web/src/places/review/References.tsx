// Pictures of others: opened, held beside what is looked at, closed.
import { Menu } from '@mantine/core';
import { IconX } from '@tabler/icons-react';
import { useQueryClient } from '@tanstack/react-query';
import type { Reference } from '@variscen/contract';
import { useRef, useState } from 'react';
import { call, sendFile } from '../../api/client.ts';
import { keys } from '../../api/queries.ts';
import { stopOpening } from '../../pictures/useLayers.ts';
import { say, sayError } from '../../ui/notify.ts';
import styles from './References.module.css';
import type { ReviewState } from './useReview.ts';

const READ = '.exr,.png,.jpg,.jpeg,.tif,.tiff,.webp';

export function References({ projectId, review }: { projectId: string; review: ReviewState }) {
  const { references, heldIds } = review;
  const file = useRef<HTMLInputElement>(null);
  const { isBusy, open, close } = useOpening(projectId, review);
  return (
    <>
      <Menu position="bottom-end" offset={8} width={320} closeOnItemClick={false}>
        <Menu.Target>
          <button type="button" className={`quiet ${styles.target}`} aria-busy={isBusy}>
            {isBusy ? 'Opening…' : 'References'}
          </button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Label>Pictures of others, to compare with</Menu.Label>
          {references.map((r) => (
            <Line
              key={r.id}
              reference={r}
              isHeld={heldIds.includes(r.id)}
              onHold={(isHeld) => review.hold(r.id, isHeld, howWith(review, isHeld))}
              onClose={() => void close(r)}
            />
          ))}
          {references.length > 0 && <Menu.Divider />}
          <Menu.Item disabled={isBusy} onClick={() => file.current?.click()}>
            Open a picture…
          </Menu.Item>
        </Menu.Dropdown>
      </Menu>
      <input
        ref={file}
        type="file"
        accept={READ}
        hidden
        aria-label="File of a reference"
        onChange={(e) => {
          const chosen = e.currentTarget.files?.[0];
          if (chosen) void open(chosen);
          e.currentTarget.value = '';
        }}
      />
    </>
  );
}

interface LineProps {
  readonly reference: Reference;
  readonly isHeld: boolean;
  readonly onHold: (isHeld: boolean) => void;
  readonly onClose: () => void;
}
function Line({ reference: { name, widthPx, heightPx, remarks }, isHeld, onHold, onClose }: LineProps) {
  return (
    <div className={styles.line}>
      <Menu.Item
        role="menuitemcheckbox"
        aria-checked={isHeld}
        title={[name, ...remarks].join('. ')}
        onClick={() => onHold(!isHeld)}
        rightSection={<span className="mono faint">{`${widthPx} × ${heightPx}`}</span>}
      >
        <span className={styles.name} data-held={isHeld}>
          {name}
        </span>
      </Menu.Item>
      <Menu.Item className={styles.close} aria-label={`Close ${name}`} title="Close it" onClick={onClose}>
        <IconX size={14} stroke={1.6} aria-hidden />
      </Menu.Item>
    </div>
  );
}

/** One that is held is seen. */
const howWith = ({ mode }: ReviewState, isHeld: boolean) => (isHeld && mode === 'one' ? 'wipe' : undefined);

function useOpening(projectId: string, review: ReviewState) {
  const client = useQueryClient();
  const [isBusy, setBusy] = useState(false);
  // a large file takes a while, in which others may be held
  const now = useRef(review);
  now.current = review;
  const again = () => client.invalidateQueries({ queryKey: keys.references(projectId) });
  return {
    isBusy,
    open: async (file: File) => {
      setBusy(true);
      try {
        const reference = await sendFile('openReference', file, { projectId });
        await again();
        now.current.hold(reference.id, true, howWith(now.current, true));
        for (const remark of reference.remarks) say(remark);
      } catch (e) {
        sayError(e);
      } finally {
        setBusy(false);
      }
    },
    close: async ({ id }: Reference) => {
      try {
        now.current.hold(id, false);
        await stopOpening(client, id);
        const { name } = await call('closeReference', { params: { projectId, referenceId: id } });
        await again();
        say(`“${name}” is closed`, 'The file that it came from is as it was.');
      } catch (e) {
        sayError(e);
      }
    },
  };
}
