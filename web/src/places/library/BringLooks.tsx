// Options from the library or a file come into a project: what each of their things is found as, what is not, and which
// of them come.
import { Checkbox, Modal, Select } from '@mantine/core';
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query';
import type { LooksSource, Project } from '@variscen/contract';
import { isSingle, parseTarget } from '@variscen/core/looks';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useMemo, useState } from 'react';
import { call } from '../../api/client.ts';
import { keys, setProject, useScene } from '../../api/queries.ts';
import { Buttons } from '../../ui/Buttons.tsx';
import { plural } from '../../ui/format.ts';
import { FacetGlyph, facetOr, facetName } from '../../ui/glyphs.tsx';
import { say, sayError } from '../../ui/notify.ts';
import styles from './BringLooks.module.css';

const ROW_PX = 32;
const HOW = { path: 'the same', name: 'by name', material: 'by its material', hand: 'by hand', single: '' } as const;
const LEAVE = 'leave';
/** Listed at once of those that a search finds. */
const MOST_CHOICES = 200;

export function BringLooks({
  project,
  source,
  title,
  onClose,
  onBrought,
}: {
  project: Project;
  source: LooksSource;
  title: string;
  onClose: () => void;
  onBrought?: (optionIds: readonly string[]) => void;
}) {
  const client = useQueryClient();
  const scene = useScene(project.revision?.sceneHash);
  const [byHand, setByHand] = useState<Record<string, string | null>>({});
  const [out, setOut] = useState<ReadonlySet<number>>(new Set());
  const [keepUnmatched, setKeepUnmatched] = useState(false);
  const [open, setOpen] = useState<string | null>(null);
  const [all, setAll] = useState(false);
  const [busy, setBusy] = useState(false);
  const [box, setBox] = useState<HTMLDivElement | null>(null);
  const match = useQuery({
    queryKey: ['match looks', project.id, project.revision?.sceneHash, project.history.last, source, byHand],
    placeholderData: keepPreviousData,
    retry: false,
    staleTime: 0,
    queryFn: () => call('matchLooks', { params: { projectId: project.id }, body: { source, byHand } }),
  });
  const m = match.data;
  const lost = (m?.things ?? []).filter((t) => t.to === null && byHand[t.target] !== null);
  const notable = useMemo(
    () =>
      (m?.things ?? [])
        .filter((t) => all || t.to === null || t.how === 'name' || t.how === 'material' || t.how === 'hand')
        .sort((a, b) => Number(a.to !== null) - Number(b.to !== null)),
    [m, all],
  );
  const list = useVirtualizer({
    count: notable.length,
    getScrollElement: () => box,
    estimateSize: () => ROW_PX,
    overscan: 6,
  });
  const only = (m?.options ?? []).map((_, i) => i).filter((i) => !out.has(i));
  const choices = useMemo(() => {
    const d = scene.data?.document;
    return (
      d && {
        object: d.nodes.filter((n) => n.parts || n.light === undefined).map((n) => `object:${n.path}`),
        light: d.nodes.filter((n) => n.light !== undefined).map((n) => `light:${n.path}`),
        material: d.materials.map((x) => `material:${x.name}`),
      }
    );
  }, [scene.data]);
  const nameOf = (target: string) => target.slice(target.indexOf(':') + 1);
  const bring = async () => {
    setBusy(true);
    try {
      const r = await call('bringLooks', {
        params: { projectId: project.id },
        body: { source, byHand, only, keepUnmatched },
      });
      setProject(client, r.project);
      void client.invalidateQueries({ queryKey: keys.board(project.id) });
      say(
        `${plural(r.optionIds.length, 'option')} imported`,
        r.left ? `${plural(r.left, 'change')} found nothing here and stayed behind.` : '',
      );
      onBrought?.(r.optionIds);
      onClose();
    } catch (e) {
      sayError(e);
    } finally {
      setBusy(false);
    }
  };
  return (
    <Modal opened onClose={onClose} title={title} size={860}>
      {match.error && (
        <div className="notice" role="alert">
          {match.error.message}
        </div>
      )}
      {m && (
        <div className={styles.columns}>
          <div>
            <h4>From “{m.from}”</h4>
            {m.options.map((o, i) => (
              <Checkbox
                key={i}
                size="xs"
                mb={6}
                checked={!out.has(i)}
                onChange={() =>
                  setOut((s) => {
                    const n = new Set(s);
                    if (!n.delete(i)) n.add(i);
                    return n;
                  })
                }
                aria-label={`${facetName(o.facet)}: ${o.name}`}
                label={
                  <span className="chip" data-facet={facetOr(o.facet)}>
                    <FacetGlyph facet={o.facet} size={11} />
                    {o.name}
                    <span className="faint">
                      {plural(o.changes, 'value')}
                      {o.taken && ', name taken'}
                    </span>
                  </span>
                }
              />
            ))}
            {m.missing.length > 0 && (
              <div className={`notice ${styles.notice}`}>
                Not on this machine: {m.missing.join(', ')}. Import {m.missing.length === 1 ? 'it' : 'them'}, or choose
                others afterwards.
              </div>
            )}
          </div>
          <div className={styles.lost}>
            <div className={styles.row}>
              <b className={styles.status} role="status">
                {plural(m.things.length - lost.length, 'object')} of {m.things.length} found
                {lost.length > 0 && `, ${lost.length} not`}
              </b>
              <button type="button" className={`dim ${styles.all}`} onClick={() => setAll(!all)}>
                {all ? 'Only those to look at' : 'Show all'}
              </button>
            </div>
            <div ref={setBox} role="table" aria-label="What is found" className={styles.whatIsFound}>
              <div className={styles.rows} style={{ height: list.getTotalSize() }}>
                {list.getVirtualItems().map((item) => {
                  const t = notable[item.index]!;
                  const kind = parseTarget(t.target)?.kind;
                  const own =
                    open === t.target && (kind === 'object' || kind === 'light' || kind === 'material')
                      ? (choices?.[kind] ?? [])
                      : [];
                  const first = [...new Set([...(t.to ? [t.to] : []), ...t.candidates])];
                  const data = [
                    { value: LEAVE, label: 'Nothing: leave it' },
                    ...[...first, ...own.filter((x) => !first.includes(x))].map((value) => ({
                      value,
                      label: nameOf(value),
                    })),
                  ];
                  return (
                    <div
                      role="row"
                      key={item.key}
                      className={styles.foundRow}
                      style={{ top: item.start, height: ROW_PX }}
                    >
                      <span role="cell" className="ellipsis" title={nameOf(t.target)}>
                        {kind === 'object' || kind === 'light'
                          ? nameOf(t.target).split('/').slice(-2).join(' / ')
                          : t.label}{' '}
                        <span className="faint">
                          {kind} · {t.changes}
                        </span>
                      </span>
                      {isSingle(kind) ? (
                        <span role="cell" className="dim">
                          the whole scene
                        </span>
                      ) : (
                        <Select
                          size="xs"
                          role="cell"
                          aria-label={`What ${t.label} is here`}
                          placeholder="not found"
                          value={byHand[t.target] === null ? LEAVE : t.to}
                          data={data}
                          searchable
                          limit={MOST_CHOICES}
                          onDropdownOpen={() => setOpen(t.target)}
                          allowDeselect={false}
                          nothingFoundMessage="Nothing of that name"
                          onChange={(v) => {
                            if (v !== null) setByHand((b) => ({ ...b, [t.target]: v === LEAVE ? null : v }));
                          }}
                        />
                      )}
                      <span role="cell" className={`${t.to === null ? '' : 'faint'} ${styles.cell}`}>
                        {t.to === null ? lostText(byHand[t.target] === null, t.candidates.length) : t.how && HOW[t.how]}
                      </span>
                    </div>
                  );
                })}
              </div>
              {!notable.length && <p className="dim">Everything is here under the same name.</p>}
            </div>
            {lost.length > 0 && (
              <Checkbox
                mt={10}
                size="xs"
                label="Keep what is not found: it waits until an object of that name comes"
                checked={keepUnmatched}
                onChange={(e) => setKeepUnmatched(e.currentTarget.checked)}
              />
            )}
          </div>
        </div>
      )}
      <Buttons
        label={`Import ${plural(only.length, 'option')}`}
        disabled={!m || !only.length || busy || match.isFetching}
        onCancel={onClose}
        onGo={() => void bring()}
      />
    </Modal>
  );
}

function lostText(isLeft: boolean, candidates: number): string {
  if (isLeft) return 'left';
  return candidates ? `${candidates} could be` : 'not found';
}
