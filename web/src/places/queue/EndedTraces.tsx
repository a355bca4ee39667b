// What has ended, the latest first, by pages; found by state, project and name.
import { Select, TextInput } from '@mantine/core';
import { useInfiniteQuery } from '@tanstack/react-query';
import type { QueueTrace, TraceState } from '@variscen/contract';
import { useState } from 'react';
import { call } from '../../api/client.ts';
import { keys, useProjects } from '../../api/queries.ts';
import { STATE_WORDS } from './words.ts';
import { TraceCells, TraceHead, nameOf } from './TraceCells.tsx';
import type { QueueDoing } from './useQueueActions.ts';
import styles from './QueuePlace.module.css';

const STATES: readonly TraceState[] = ['done', 'failed', 'undelivered', 'cancelled'];

interface Filter {
  readonly state: string;
  readonly projectId: string;
  readonly text: string;
}
const NONE: Filter = { state: '', projectId: '', text: '' };

function useEnded(filter: Filter) {
  return useInfiniteQuery({
    queryKey: [...keys.queue, 'ended', filter],
    initialPageParam: '',
    queryFn: ({ pageParam, signal }) => {
      const wish = { ...filter, after: pageParam };
      const query = Object.fromEntries(Object.entries(wish).filter(([, value]) => value !== ''));
      return call('endedTraces', { query, signal });
    },
    getNextPageParam: (last) => last.next,
    placeholderData: (before) => before,
  });
}

export function EndedTraces({ actions }: { actions: QueueDoing }) {
  const [filter, setFilter] = useState(NONE);
  const { data, hasNextPage, fetchNextPage, isFetchingNextPage } = useEnded(filter);
  const traces = data?.pages.flatMap((p) => p.traces) ?? [];
  const isFiltered = filter.state !== '' || filter.projectId !== '' || filter.text !== '';
  if (!traces.length && !isFiltered) return null;
  return (
    <section aria-label="Finished" className={styles.section}>
      <TraceHead title="Finished">
        <Filters filter={filter} onChange={setFilter} />
      </TraceHead>
      <ul className={styles.list} aria-label="Finished traces">
        {traces.map((t) => (
          <li key={t.id} className={styles.row} aria-label={nameOf(t)}>
            <TraceCells trace={t} />
            <Again trace={t} actions={actions} />
          </li>
        ))}
      </ul>
      {!traces.length && <p className="dim">No finished trace is like this.</p>}
      {hasNextPage && (
        <button
          type="button"
          className={`quiet ${styles.more}`}
          disabled={isFetchingNextPage}
          onClick={() => void fetchNextPage()}
        >
          Show earlier ones
        </button>
      )}
    </section>
  );
}

function Filters({ filter, onChange }: { filter: Filter; onChange: (f: Filter) => void }) {
  const { data: projects } = useProjects();
  return (
    <div className={styles.filters}>
      <Select
        size="xs"
        aria-label="State"
        placeholder="All states"
        clearable
        w={140}
        data={STATES.map((value) => ({ value, label: STATE_WORDS[value] }))}
        value={filter.state || null}
        onChange={(state) => onChange({ ...filter, state: state ?? '' })}
      />
      <Select
        size="xs"
        aria-label="Project"
        placeholder="All projects"
        clearable
        searchable
        w={160}
        data={(projects ?? []).map((p) => ({ value: p.id, label: p.name }))}
        value={filter.projectId || null}
        onChange={(projectId) => onChange({ ...filter, projectId: projectId ?? '' })}
      />
      <TextInput
        size="xs"
        type="search"
        aria-label="Camera, variant or project"
        placeholder="Camera, variant …"
        maxLength={200}
        w={150}
        value={filter.text}
        onChange={(e) => onChange({ ...filter, text: e.target.value })}
      />
    </div>
  );
}

function Again({ trace: t, actions }: { trace: QueueTrace; actions: QueueDoing }) {
  if (t.state === 'done')
    return (
      <button
        type="button"
        className={`quiet ${styles.quiet}`}
        aria-label="Render again"
        title="Render again from what it was planned with: the look, the camera and the profile of then, under a new version"
        onClick={() => void actions.rerun(t)}
      >
        Again
      </button>
    );
  return (
    <button type="button" className={`quiet ${styles.quiet}`} onClick={() => void actions.retry(t)}>
      {t.state === 'undelivered' ? 'Deliver again' : 'Retry'}
    </button>
  );
}
