// A newer file of the scene against what is recorded: what goes on, what moved, what is gone and what is new, before
// anything of it is in force. What the rules
// could not tell is matched by hand here.
import { Checkbox, Select } from '@mantine/core';
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query';
import type { HandMatch, MatchPreview, Project, Revision } from '@variscen/contract';
import { useMemo, useState } from 'react';
import { call } from '../../api/client.ts';
import { keys, setProject } from '../../api/queries.ts';
import { count, plural } from '../../ui/format.ts';
import { say, sayError } from '../../ui/notify.ts';
import styles from './MatchPanel.module.css';

const HOW_WORDS = {
  path: 'same path',
  parent: 'same name in its group',
  name: 'only one of its name',
  hand: 'by hand',
} as const;
const SHOWN = 300;
type Tab = 'gone' | 'added' | 'notable';
/** Objects and groups may take each other's place; a light, a camera and a material only that of their kind. */
const family = (kind: string): string => (kind === 'group' ? 'object' : kind);

export function MatchPanel({
  project,
  revision,
  onDone,
}: {
  project: Project;
  revision: Revision;
  onDone: () => void;
}) {
  const client = useQueryClient();
  const [byHand, setByHand] = useState<readonly HandMatch[]>([]);
  const [tab, setTab] = useState<Tab>('gone');
  const [addCameras, setAddCameras] = useState<readonly string[] | null>(null);
  const [moveCameras, setMoveCameras] = useState<readonly string[]>([]);
  const [busy, setBusy] = useState(false);
  const params = { projectId: project.id, revisionId: revision.id };
  const {
    data: look,
    error,
    isFetching,
  } = useQuery({
    queryKey: ['match', revision.id, byHand],
    queryFn: () => call('matchRevision', { params, body: { byHand: [...byHand] } }),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  });
  const choices = useMemo(() => {
    const out = new Map<string, { value: string; label: string }[]>();
    for (const a of look?.added ?? []) {
      const list = out.get(family(a.kind)) ?? [];
      list.push({ value: a.id, label: a.label });
      out.set(family(a.kind), list);
    }
    return out;
  }, [look]);
  if (error) return <p className="notice">{error.message}</p>;
  if (!look)
    return (
      <p className="dim" aria-busy>
        Comparing with what is recorded …
      </p>
    );
  const cameras = addCameras ?? look.newCameras;
  const run = async (work: () => Promise<Project>, said: string, more = '') => {
    setBusy(true);
    try {
      setProject(client, await work());
      await client.invalidateQueries({ queryKey: keys.board(project.id) });
      await client.invalidateQueries({ queryKey: ['revisions', project.id] });
      say(said, more);
      onDone();
    } catch (e) {
      sayError(e);
    } finally {
      setBusy(false);
    }
  };
  const waiting = look.gone.filter((g) => g.recorded > 0);
  const flip = (list: readonly string[], x: string) => (list.includes(x) ? list.filter((y) => y !== x) : [...list, x]);
  const match = (g: MatchPreview['gone'][number], to: string | null) =>
    setByHand((old) => [
      ...old.filter((h) => h.from !== g.id || h.material !== (g.kind === 'material')),
      ...(to === null ? [] : [{ material: g.kind === 'material', from: g.id, to }]),
    ]);
  return (
    <div aria-busy={isFetching} className={styles.newCameras}>
      <p className={styles.goOnAs}>
        <b>{plural(look.matched, 'object')}</b> go on as they were
        {look.moved > 0 && (
          <>
            , <b>{count(look.moved)}</b> of them moved
          </>
        )}
        {look.changed > 0 && (
          <>
            , <b>{count(look.changed)}</b> have another shape or other values
          </>
        )}
        {look.byName > 0 && (
          <>
            ; <b>{count(look.byName)}</b> were found by their names
          </>
        )}
        {look.byHand > 0 && (
          <>
            ; <b>{count(look.byHand)}</b> by hand
          </>
        )}
        . <b>{count(look.gone.length)}</b> are gone, <b>{count(look.added.length)}</b> are new.{' '}
        {waiting.length ? (
          <span className={styles.valuesAreRecorded}>
            Values are recorded for {plural(waiting.length, 'object')} of those that are gone; they would wait.
          </span>
        ) : (
          'Nothing that is recorded would be left waiting.'
        )}
      </p>
      {(look.newCameras.length > 0 || look.movedCameras.length > 0) && (
        <div className={styles.newCamerasList}>
          <h4 className={styles.camerasOfThe}>Cameras of the file</h4>
          {look.newCameras.map((n) => (
            <Checkbox
              key={n}
              size="xs"
              label={`Add “${n}”, which the project does not have`}
              checked={cameras.includes(n)}
              onChange={() => setAddCameras(flip(cameras, n))}
            />
          ))}
          {look.movedCameras.map((m) => (
            <Checkbox
              key={m.cameraId}
              size="xs"
              label={`Take the file’s new place and lens for “${m.name}”`}
              checked={moveCameras.includes(m.cameraId)}
              onChange={() => setMoveCameras(flip(moveCameras, m.cameraId))}
            />
          ))}
        </div>
      )}
      <div className={styles.row}>
        <button
          type="button"
          className="go"
          disabled={busy || isFetching}
          onClick={() =>
            void run(
              () =>
                call('acceptRevision', {
                  params,
                  body: { byHand: [...byHand], addCameras: [...cameras], moveCameraIds: [...moveCameras] },
                }),
              `Revision ${revision.number} is current`,
              'Ctrl+Z goes back to the one before.',
            )
          }
        >
          Make revision {revision.number} current
        </button>
        <button
          type="button"
          className="quiet"
          disabled={busy}
          onClick={() =>
            void run(() => call('discardRevision', { params }), `Revision ${revision.number} is discarded`)
          }
        >
          Discard it
        </button>
      </div>
      <div>
        <div className={`tabs ${styles.whatDiffers}`} role="tablist" aria-label="What differs">
          {(
            [
              ['gone', `Gone ${count(look.gone.length)}`],
              ['added', `New ${count(look.added.length)}`],
              ['notable', `Moved, changed, renamed ${count(look.notableCount)}`],
            ] as const
          ).map(([id, label]) => (
            <button
              type="button"
              role="tab"
              key={id}
              aria-selected={tab === id}
              onClick={() => setTab(id)}
              className={styles.tab}
            >
              {label}
            </button>
          ))}
        </div>
        {tab === 'gone' && (
          <table className="rows">
            <thead>
              <tr>
                <th>Gone</th>
                <th>Kind</th>
                <th className="n">Recorded values</th>
                <th className={styles.itIsNow}>It is now</th>
              </tr>
            </thead>
            <tbody>
              {[
                ...byHand.map((h): MatchPreview['gone'][number] & { to?: string } => ({
                  kind: h.material ? 'material' : 'object',
                  id: h.from,
                  label: h.from,
                  recorded: 0,
                  to: h.to,
                })),
                ...look.gone.slice(0, SHOWN),
              ].map((g: MatchPreview['gone'][number] & { to?: string }) => (
                <tr key={`${g.kind} ${g.id}`}>
                  <td className={`ellipsis ${styles.label}`} title={g.label}>
                    {g.label}
                  </td>
                  <td className="dim">{g.kind}</td>
                  <td className="n">{g.to !== undefined ? '' : g.recorded || ''}</td>
                  <td>
                    {g.to !== undefined ? (
                      <span>
                        {g.to}{' '}
                        <button type="button" className={styles.undo} onClick={() => match(g, null)}>
                          undo
                        </button>
                      </span>
                    ) : (
                      <Select
                        size="xs"
                        aria-label={`What ${g.label} is now`}
                        placeholder={
                          choices.get(family(g.kind))?.length ? 'Choose what it became…' : 'nothing new of its kind'
                        }
                        searchable
                        limit={60}
                        disabled={!choices.get(family(g.kind))?.length}
                        value={null}
                        data={choices.get(family(g.kind)) ?? []}
                        onChange={(v) => {
                          if (v !== null) match(g, v);
                        }}
                      />
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        {tab === 'added' && (
          <table className="rows">
            <thead>
              <tr>
                <th>New</th>
                <th>Kind</th>
              </tr>
            </thead>
            <tbody>
              {look.added.slice(0, SHOWN).map((a) => (
                <tr key={`${a.kind} ${a.id}`}>
                  <td>{a.label}</td>
                  <td className="dim">{a.kind}</td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        {tab === 'notable' && (
          <table className="rows">
            <thead>
              <tr>
                <th>In the new file</th>
                <th>Was</th>
                <th>Found by</th>
                <th>Differs</th>
              </tr>
            </thead>
            <tbody>
              {look.notable.slice(0, SHOWN).map((m) => (
                <tr key={`${m.kind} ${m.to}`}>
                  <td>
                    {m.to} <span className="faint">{m.kind}</span>
                  </td>
                  <td className="dim">{m.from === m.to ? '' : m.from}</td>
                  <td className="dim">{HOW_WORDS[m.how]}</td>
                  <td>{[m.moved && 'moved', m.changed && 'changed'].filter(Boolean).join(', ')}</td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        {tab !== 'notable' && (tab === 'gone' ? look.gone : look.added).length > SHOWN && (
          <p className="dim">
            The first {SHOWN} of {count((tab === 'gone' ? look.gone : look.added).length)}; those with recorded values
            stand first.
          </p>
        )}
        {tab === 'notable' && look.notableCount > SHOWN && (
          <p className="dim">
            The first {SHOWN} of {count(look.notableCount)}.
          </p>
        )}
        {((tab === 'gone' && !look.gone.length && !byHand.length) ||
          (tab === 'added' && !look.added.length) ||
          (tab === 'notable' && !look.notable.length)) && <p className="dim">None.</p>}
      </div>
    </div>
  );
}
