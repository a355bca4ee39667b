// Who is told when a batch ends: this desktop, and an address on the network.
import { Checkbox, Modal, PasswordInput, TextInput } from '@mantine/core';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { WebhookState } from '@variscen/contract';
import { useState } from 'react';
import { call } from '../../api/client.ts';
import { keys } from '../../api/queries.ts';
import { Buttons } from '../../ui/Buttons.tsx';
import { desktopNotes, setDesktopNotes } from '../../ui/desktopNote.ts';
import { sayError } from '../../ui/notify.ts';
import styles from './QueuePlace.module.css';

const QUERY = [...keys.queue, 'webhook'];

export function TellDialog({ onClose }: { onClose: () => void }) {
  const { data } = useQuery({ queryKey: QUERY, queryFn: () => call('webhook', {}) });
  const [notes, setNotes] = useState(desktopNotes);
  return (
    <Modal opened onClose={onClose} title="When a batch ends" size={560}>
      <Checkbox
        size="xs"
        label="Show a note on this desktop while this page is open and not looked at"
        description={notes === 'refused' ? 'This browser does not let the page show notes.' : undefined}
        disabled={notes === 'refused'}
        checked={notes === 'on'}
        onChange={(e) => void setDesktopNotes(e.currentTarget.checked).then(setNotes)}
      />
      {data && <WebhookForm webhook={data} onClose={onClose} />}
    </Modal>
  );
}

function WebhookForm({ webhook, onClose }: { webhook: WebhookState; onClose: () => void }) {
  const client = useQueryClient();
  const [url, setUrl] = useState(webhook.url ?? '');
  const [secret, setSecret] = useState<string | null>(null);
  const keep = async (): Promise<boolean> => {
    try {
      const own = secret === null ? {} : { secret: secret || null };
      await call('setWebhook', { body: { url: url.trim() || null, ...own } });
      return true;
    } catch (e) {
      sayError(e);
      return false;
    } finally {
      await client.invalidateQueries({ queryKey: QUERY });
    }
  };
  const attempt = async () => {
    if (!(await keep())) return;
    try {
      client.setQueryData(QUERY, await call('tryWebhook', {}));
    } catch (e) {
      sayError(e);
    }
  };
  return (
    <form
      className={styles.tell}
      onSubmit={(e) => {
        e.preventDefault();
        void keep().then((isKept) => isKept && onClose());
      }}
    >
      <TextInput
        label="Post what came of it to"
        description="An address that takes JSON, http:// or https://; nowhere where it is empty."
        placeholder="http://127.0.0.1:4470/"
        value={url}
        onChange={(e) => setUrl(e.currentTarget.value)}
      />
      <PasswordInput
        label="Secret"
        description="What is posted is signed with it (HMAC with SHA-256, in x-variscen-signature)."
        placeholder={webhook.isSigned ? 'As it is' : 'None'}
        value={secret ?? ''}
        maxLength={200}
        onChange={(e) => setSecret(e.currentTarget.value)}
      />
      <div className={styles.tellTry}>
        <button type="button" className="quiet" disabled={!url.trim()} onClick={() => void attempt()}>
          Keep, and post a word now
        </button>
        <span role="status">{webhook.last && lastWord(webhook.last)}</span>
      </div>
      <Buttons label="Keep" onCancel={onClose} />
    </form>
  );
}
const lastWord = ({ at, error }: NonNullable<WebhookState['last']>): string =>
  `${new Date(at).toLocaleTimeString('en')}: ${error ?? 'it was taken.'}`;
