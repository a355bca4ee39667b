// What was delivered: where it lies, what is other than in the one before, and the way to make it again.
import { Modal } from '@mantine/core';
import { useQuery } from '@tanstack/react-query';
import type { Delivery, DeliveryChanges, Project } from '@variscen/contract';
import dayjs from 'dayjs';
import { useState } from 'react';
import { call, pathOf } from '../../../api/client.ts';
import { bytes, plural, version } from '../../../ui/format.ts';
import { sayError } from '../../../ui/notify.ts';
import { DeliverDialog } from './DeliverDialog.tsx';
import { Bar } from '../../../ui/Bar.tsx';
import styles from './HandOver.module.css';

const ASKED_EVERY_MS = 500;
const CHANGES_NAMED = 6;

export function DeliveriesDialog({ project, onClose }: { project: Project; onClose: () => void }) {
  const [again, setAgain] = useState<Delivery | null>(null);
  const { data, error } = useQuery({
    queryKey: ['deliveries', project.id],
    queryFn: () => call('deliveries', { params: { projectId: project.id } }),
    staleTime: 0,
    refetchInterval: ({ state }) => (state.data?.some((d) => d.state === 'writing') ? ASKED_EVERY_MS : false),
  });
  if (again) {
    const back = () => setAgain(null);
    return (
      <DeliverDialog
        project={project}
        renderIds={again.asked.renderIds}
        first={again.asked}
        onClose={back}
        onBegun={back}
      />
    );
  }
  return (
    <Modal opened onClose={onClose} title="Deliveries" size={640}>
      {error && <p className="notice">{error.message}</p>}
      {data?.length === 0 && <p className="dim">Nothing was delivered yet.</p>}
      {data?.map((d) => (
        <One key={d.id} project={project} delivery={d} onAgain={() => setAgain(d)} />
      ))}
    </Modal>
  );
}

function One({ project, delivery, onAgain }: { project: Project; delivery: Delivery; onAgain: () => void }) {
  const { id, number, asked, state, fraction, error, path, files, createdAt, changes } = delivery;
  return (
    <section className={styles.delivery} aria-label={`Delivery ${number}`}>
      <div className={styles.head}>
        <span className="ellipsis">
          <b className="mono">{number}</b> {asked.name}
          <span className="dim">
            , {plural(asked.renderIds.length, 'picture')}, {dayjs(createdAt).format('D MMM HH:mm')}
          </span>
        </span>
        <span className={styles.acts}>
          {state === 'done' && asked.target === 'zip' && (
            <a
              className={`quiet ${styles.small}`}
              href={pathOf('deliveryZip', { projectId: project.id, deliveryId: id })}
              download
            >
              Save the zip
            </a>
          )}
          {state === 'writing' && (
            <button
              type="button"
              className={`quiet ${styles.small}`}
              onClick={() =>
                void call('stopDelivery', { params: { projectId: project.id, deliveryId: id } }).catch(sayError)
              }
            >
              Stop
            </button>
          )}
          {state !== 'writing' && (
            <button type="button" className={`quiet ${styles.small}`} onClick={onAgain}>
              Make again…
            </button>
          )}
        </span>
      </div>
      {state === 'writing' && <Bar fraction={fraction} label={`Writing delivery ${number}`} />}
      {state === 'failed' && <p className="notice">{error}</p>}
      {state === 'done' && (
        <div className="dim">
          {plural(files, 'file')}, {bytes(delivery.bytes)} in <span className={`mono ${styles.path}`}>{path}</span>
        </div>
      )}
      {changes && <Changes changes={changes} />}
    </section>
  );
}

function Changes({ changes: { number, added, gone, changed, same } }: { changes: DeliveryChanges }) {
  const words = [
    ...changed.map((c) => `${c.picture}: ${version(c.was)} → ${version(c.is)}`),
    ...added.map((name) => `${name}: new`),
    ...gone.map((name) => `${name}: no longer in it`),
  ];
  const more = words.length - CHANGES_NAMED;
  return (
    <div className={styles.changes}>
      <span className="dim">
        Since delivery {number}: {words.length ? '' : 'nothing has changed.'}
        {same > 0 && words.length > 0 && `${plural(same, 'picture')} as before, and`}
      </span>
      {words.slice(0, CHANGES_NAMED).map((w) => (
        <div key={w}>{w}</div>
      ))}
      {more > 0 && <div className="dim">and {more} more</div>}
    </div>
  );
}
