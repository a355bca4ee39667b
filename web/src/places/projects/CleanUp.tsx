// Older pictures of a project: what their files take, which go by some rules, and what was cleaned up before.
import { Modal, NumberInput, Switch } from '@mantine/core';
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query';
import type { Cleaning, CleaningPlan, CleaningRules, ProjectSummary } from '@variscen/contract';
import dayjs from 'dayjs';
import { useState } from 'react';
import { call } from '../../api/client.ts';
import { Buttons } from '../../ui/Buttons.tsx';
import { bytes, plural } from '../../ui/format.ts';
import { say, sayError } from '../../ui/notify.ts';
import styles from './CleanUp.module.css';

const FIRST: CleaningRules = { versions: 2, keepsDelivered: true };
const PICTURES_NAMED = 8;

export function CleanUp({ project, onClose }: { project: ProjectSummary; onClose: () => void }) {
  const client = useQueryClient();
  const [rules, setRules] = useState(FIRST);
  const [isBusy, setBusy] = useState(false);
  const params = { projectId: project.id };
  const queryKey = ['cleanings', project.id];
  const { data: plan, error } = useQuery({
    queryKey: [...queryKey, 'plan', rules],
    staleTime: 0,
    placeholderData: keepPreviousData,
    queryFn: ({ signal }) => call('planCleaning', { params, body: rules, signal }),
  });
  const { data: before } = useQuery({
    queryKey: [...queryKey, 'done'],
    staleTime: 0,
    queryFn: () => call('cleanings', { params }),
  });
  const run = async (work: () => Promise<Cleaning>, said: (c: Cleaning) => string) => {
    setBusy(true);
    try {
      say(said(await work()), '');
    } catch (e) {
      sayError(e);
    } finally {
      await client.invalidateQueries({ queryKey });
      // what is there of pictures that were opened is otherwise now
      for (const of of ['layers', 'layer', 'render']) client.removeQueries({ queryKey: [of] });
      setBusy(false);
    }
  };
  const clean = () =>
    run(
      () => call('clean', { params, body: rules }),
      (c) => `${bytes(c.bytes)} are put aside for a week`,
    );
  const undo = (cleaningId: string) =>
    run(
      () => call('undoCleaning', { params: { ...params, cleaningId } }),
      (c) => `${plural(c.files, 'file')} are back`,
    );
  return (
    <Modal opened onClose={onClose} title={`Clean up “${project.name}”`} size={600}>
      <form
        className={styles.form}
        onSubmit={(e) => {
          e.preventDefault();
          void clean();
        }}
      >
        <p>
          Files of older pictures go; what is known of them and their small pictures stay. What is approved never goes.
          It can be undone for a week.
        </p>
        <div className={styles.fields}>
          <NumberInput
            size="xs"
            label="Newest versions that stay, of each cell and profile"
            min={1}
            max={50}
            value={rules.versions}
            onChange={(v) =>
              setRules((r) => ({ ...r, versions: typeof v === 'number' ? Math.min(50, Math.max(1, v)) : 1 }))
            }
          />
          <Switch
            size="xs"
            label="Keep what was delivered"
            checked={rules.keepsDelivered}
            onChange={(e) => {
              const keepsDelivered = e.currentTarget.checked;
              setRules((r) => ({ ...r, keepsDelivered }));
            }}
          />
        </div>
        {error && <p className="notice">{error.message}</p>}
        {plan && (
          <div>
            <p>
              <Goes plan={plan} />
              {plan.stays.approved > 0 && ` ${plural(plan.stays.approved, 'older one')} stay approved.`}
              {plan.stays.delivered > 0 && ` ${plural(plan.stays.delivered, 'older one')} stay delivered.`}
            </p>
            <ul className={`dim ${styles.pictures}`}>
              {plan.pictures.slice(0, PICTURES_NAMED).map((p) => (
                <li key={p.renderId}>
                  {p.name} <span className="mono">{bytes(p.bytes)}</span>
                </li>
              ))}
              {plan.goes.renders > PICTURES_NAMED && <li>and {plan.goes.renders - PICTURES_NAMED} more</li>}
            </ul>
          </div>
        )}
        <Buttons
          label={plan?.goes.files ? `Clean up ${bytes(plan.goes.bytes)}` : 'Clean up'}
          disabled={isBusy || !plan?.goes.files}
          onCancel={onClose}
        />
      </form>
      {before?.map((c) => (
        <div key={c.id} className={styles.done}>
          <span>
            {dayjs(c.createdAt).format('D MMM HH:mm')}: {bytes(c.bytes)} of {plural(c.renders, 'picture')}
            <span className="dim">{STATE_WORDS[c.state](c)}</span>
          </span>
          {c.state === 'aside' && (
            <button type="button" className="quiet" disabled={isBusy} onClick={() => void undo(c.id)}>
              Undo
            </button>
          )}
        </div>
      ))}
    </Modal>
  );
}

function Goes({ plan: { goes, renders, bytes: all } }: { plan: CleaningPlan }) {
  if (!goes.files) return <>Nothing of {bytes(all)} goes by these rules.</>;
  return (
    <>
      <b>{bytes(goes.bytes)}</b> of {bytes(all)} go: {plural(goes.files, 'file')} of {plural(goes.renders, 'picture')}{' '}
      of {renders}.
    </>
  );
}

const STATE_WORDS: Readonly<Record<Cleaning['state'], (c: Cleaning) => string>> = {
  aside: (c) => `, until ${dayjs(c.untilAt).format('D MMM')} it can be undone`,
  undone: () => ', undone',
  gone: () => ', gone for good',
};
