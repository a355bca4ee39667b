// What rendering the chosen cells would take, before anything runs; and the button that runs it.
import { Modal, SegmentedControl } from '@mantine/core';
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query';
import type { BoardCell, Plan, Project } from '@variscen/contract';
import { useState } from 'react';
import { call } from '../../api/client.ts';
import { keys, useProfiles } from '../../api/queries.ts';
import { bytes, count, duration, percent, plural } from '../../ui/format.ts';
import { say, sayError } from '../../ui/notify.ts';
import styles from './PlanPanel.module.css';

const CATEGORIES = ['vertices', 'acceleration', 'textures', 'lights', 'film', 'scratch'] as const;

const DENOISED: Readonly<Record<number, string>> = { 0: 'no', 1: 'yes' };

export function PlanPanel({ project, cells }: { project: Project; cells: readonly BoardCell[] }) {
  const client = useQueryClient();
  const profiles = useProfiles();
  const [profileId, setProfileId] = useState('sketch');
  const [whole, setWhole] = useState(false);
  const [busy, setBusy] = useState(false);
  const refs = cells.map(({ cameraId, variantId }) => ({ cameraId, variantId }));
  const states = cells.map((c) => `${c.status}${c.render?.version ?? 0}`).join();
  const plan = useQuery({
    queryKey: ['plan', project, profileId, refs, states],
    enabled: refs.length > 0,
    placeholderData: keepPreviousData,
    staleTime: 0,
    retry: false,
    queryFn: ({ signal }) =>
      call('plan', { params: { projectId: project.id }, body: { cells: refs, profileId }, signal }),
  });
  const p = refs.length ? plan.data : undefined;
  const seconds =
    p && p.traces.every((t) => t.expectedS !== null) ? p.traces.reduce((n, t) => n + t.expectedS!, 0) : null;
  const most = p ? Math.max(...p.traces.map((t) => t.totalBytes)) : 0;
  const mostWithout = p ? Math.max(...p.traces.map((t) => t.totalBytesWithoutCulling)) : 0;
  const dropped = p?.traces.reduce((n, t) => n + t.droppedCount, 0) ?? 0;
  const culls = p?.traces.some((t) => t.culls) ?? false;
  const outdated = cells.length === 1 ? cells[0]!.differences : [];
  const render = async () => {
    setBusy(true);
    try {
      const b = await call('createBatch', { params: { projectId: project.id }, body: { cells: refs, profileId } });
      say(`${plural(b.cells, 'cell')} queued as ${plural(b.traces, 'trace')}`);
      await client.invalidateQueries({ queryKey: keys.board(project.id) });
      setWhole(false);
    } catch (e) {
      sayError(e);
    } finally {
      setBusy(false);
    }
  };
  return (
    <aside className={styles.plan} aria-label="Plan">
      <div>
        <h4>Selected</h4>
        <div className={styles.status} role="status">
          {refs.length === 0 ? 'No cell' : plural(refs.length, 'cell')}
          {refs.length > 0 && p && ` from ${plural(p.traces.length, 'trace')}`}
        </div>
        {refs.length === 0 && (
          <p className="dim">
            Click a cell, add others with Ctrl or a block with Shift, or take a whole row or column by its name.
          </p>
        )}
        {p && p.traces.length < refs.length && (
          <div className="dim">Cells whose look is the same but for the grade share a trace.</div>
        )}
      </div>
      <SegmentedControl
        fullWidth
        size="xs"
        value={profileId}
        onChange={setProfileId}
        data={(profiles.data ?? []).map((x) => ({ value: x.id, label: x.name }))}
        aria-label="Profile"
      />
      {plan.error && refs.length > 0 && <div className="notice">{plan.error.message}</div>}
      {p && (
        <>
          <div className="kv">
            <span>Expected</span>
            <b>{seconds === null ? 'not measured yet' : `about ${duration(seconds)}`}</b>
            <span>Memory, most</span>
            <b>{bytes(most)}</b>
            {culls && (
              <>
                <span>… without culling</span>
                <b>{bytes(mostWithout)}</b>
                <span>Left out</span>
                <b>{plural(dropped, 'object')}</b>
              </>
            )}
            <span>Frame</span>
            <b>
              {[...new Set(p.traces.map((t) => `${t.widthPx} × ${t.heightPx}`))].slice(0, 2).join(', ')}
              {new Set(p.traces.map((t) => `${t.widthPx} × ${t.heightPx}`)).size > 2 ? ' …' : ''}
            </b>
            <span>Samples</span>
            <b>
              {count(p.profile.samples)}
              {p.profile.noise !== null && ' at most'}
            </b>
            {p.profile.noise !== null && (
              <>
                <span>Noise</span>
                <b>down to {percent(p.profile.noise)}</b>
              </>
            )}
            <span>Denoised</span>
            <b>{DENOISED[p.profile.denoise] ?? percent(p.profile.denoise)}</b>
            {p.profile.aovs.length > 0 && (
              <>
                <span>AOVs</span>
                <b title={p.profile.aovs.join(', ')}>
                  {p.profile.aovs.length <= 2
                    ? p.profile.aovs.join(', ')
                    : `${p.profile.aovs.slice(0, 2).join(', ')} and ${p.profile.aovs.length - 2} more`}
                </b>
              </>
            )}
          </div>
          {p.errors.map((e, i) => (
            <div key={i} className="notice" role="alert">
              {e.message}
            </div>
          ))}
          {p.warnings.map((w) => (
            <div key={w} className="dim">
              {w}
            </div>
          ))}
          <div>
            <h4>Files</h4>
            <div className={`mono dim ${styles.fileNames}`}>
              {p.traces
                .flatMap((t) => t.cells)
                .slice(0, 3)
                .map((c) => (
                  <div key={c.path}>{c.path}.exr, .png</div>
                ))}
              {refs.length > 3 && <div>and {plural(refs.length - 3, 'more cell')}</div>}
            </div>
          </div>
        </>
      )}
      {outdated.length > 0 && (
        <div>
          <h4>Why out of date</h4>
          {outdated.slice(0, 8).map((d, i) => (
            <div key={i}>
              {d.subject}, {d.what}{' '}
              <span className="mono">
                {d.was} → {d.is}
              </span>
            </div>
          ))}
          {outdated.length > 8 && <div className="dim">and {outdated.length - 8} more</div>}
        </div>
      )}
      {cells.length === 1 && cells[0]!.trace?.error && <div className="notice">{cells[0]!.trace.error}</div>}
      {cells.length === 1 && cells[0]!.render && (
        <div>
          <h4>Last render</h4>
          <div className="kv">
            <span>Profile</span>
            <b>{cells[0]!.render.profile.name}</b>
            <span>Traced in</span>
            <b>{duration(cells[0]!.render.seconds)}</b>
            <span>Samples</span>
            <b>{count(cells[0]!.render.samples)}</b>
            <span>Peak memory</span>
            <b>{bytes(cells[0]!.render.peakBytes)}</b>
          </div>
        </div>
      )}
      <div className={styles.stack}>
        <button type="button" className="quiet" disabled={!p} onClick={() => setWhole(true)}>
          Show the plan
        </button>
        <button
          type="button"
          className="go"
          disabled={!p || p.errors.length > 0 || busy || plan.isFetching}
          onClick={() => void render()}
        >
          {refs.length ? `Render ${plural(refs.length, 'cell')}` : 'Render cells'}
        </button>
      </div>
      <Modal opened={whole && p !== undefined} onClose={() => setWhole(false)} title="The plan" size={980}>
        {p && <WholePlan plan={p} project={project} />}
      </Modal>
    </aside>
  );
}

function WholePlan({ plan, project }: { plan: Plan; project: Project }) {
  const name = (c: { cameraId: string; variantId: string }) =>
    `${project.cameras.find((x) => x.id === c.cameraId)?.name ?? ''} in ${project.variants.find((x) => x.id === c.variantId)?.name ?? ''}`;
  return (
    <div className={styles.traces}>
      {plan.traces.map((t) => (
        <section key={t.hash} className={styles.droppedCount}>
          <b>{t.cells.map(name).join(' · ')}</b>{' '}
          <span className="mono dim">
            {t.widthPx} × {t.heightPx}, {count(t.samples)} samples
            {t.expectedS !== null && `, about ${duration(t.expectedS)}`}
          </span>
          <table className={`rows ${styles.rows}`}>
            <thead>
              <tr>
                <th>Memory</th>
                {CATEGORIES.map((c) => (
                  <th key={c} className="n">
                    {c}
                  </th>
                ))}
                <th className="n">all</th>
              </tr>
            </thead>
            <tbody>
              <tr>
                <td>{t.culls ? `With culling, ${plural(t.objects, 'object')}` : plural(t.objects, 'object')}</td>
                {CATEGORIES.map((c) => (
                  <td key={c} className="n" title={`${count(t.bytes[c])} bytes`}>
                    {bytes(t.bytes[c])}
                  </td>
                ))}
                <td className="n" title={`${count(t.totalBytes)} bytes`}>
                  {count(t.totalBytes)} B
                </td>
              </tr>
              {t.culls && (
                <tr>
                  <td className="dim">Without</td>
                  {CATEGORIES.map((c) => (
                    <td key={c} className="n dim">
                      {bytes(t.bytesWithoutCulling[c])}
                    </td>
                  ))}
                  <td className="n dim">{count(t.totalBytesWithoutCulling)} B</td>
                </tr>
              )}
            </tbody>
          </table>
          {t.droppedCount > 0 && (
            <details>
              <summary className="dim">{plural(t.droppedCount, 'object')} left out</summary>
              <div className={`dim ${styles.dropped}`}>
                {t.dropped.map((d) => (
                  <div key={d} className="ellipsis">
                    {d}
                  </div>
                ))}
                {t.droppedCount > t.dropped.length && <div>and {count(t.droppedCount - t.dropped.length)} more</div>}
              </div>
            </details>
          )}
          <div className={`mono dim ${styles.wholePlanFlatMap}`}>
            {t.cells
              .flatMap((c) => c.files)
              .map((f) => (
                <div key={f}>{f}</div>
              ))}
          </div>
        </section>
      ))}
    </div>
  );
}
