// Options from the library or a file come into a project: what each of their things is found as, what is not, and which
// of them come.
import { Checkbox, Modal } from '@mantine/core';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import type { LooksMatchAnswer, LooksSource, Project } from '@variscen/contract';
import { useState } from 'react';
import { call } from '../../api/client.ts';
import { useScene } from '../../api/queries.ts';
import { useSession } from '../../session/projectSession.ts';
import { Buttons } from '../../ui/Buttons.tsx';
import { plural } from '../../ui/format.ts';
import { FacetGlyph, facetOr, facetName } from '../../ui/glyphs.tsx';
import { say } from '../../ui/notify.ts';
import styles from './BringLooks.module.css';
import { type ByHand, FoundTable } from './FoundTable.tsx';

interface Props {
  project: Project;
  source: LooksSource;
  title: string;
  onClose: () => void;
  onBrought?: (optionIds: readonly string[]) => void;
}
export function BringLooks({ project, source, title, onClose, onBrought }: Props) {
  const session = useSession(project.id);
  const scene = useScene(project.revision?.sceneHash);
  const [byHand, setByHand] = useState<ByHand>({});
  const [out, setOut] = useState<ReadonlySet<number>>(new Set());
  const [keepUnmatched, setKeepUnmatched] = useState(false);
  const [isAllShown, setAllShown] = useState(false);
  const [isBusy, setBusy] = useState(false);
  const params = { projectId: project.id };
  const match = useQuery({
    queryKey: ['match looks', project.id, project.revision?.sceneHash, project.history.last, source, byHand],
    placeholderData: keepPreviousData,
    retry: false,
    staleTime: 0,
    queryFn: () => call('matchLooks', { params, body: { source, byHand } }),
  });
  const m = match.data;
  const lost = (m?.things ?? []).filter((t) => t.to === null && byHand[t.target] !== null).length;
  const only = (m?.options ?? []).map((_, i) => i).filter((i) => !out.has(i));
  const bring = async () => {
    setBusy(true);
    const r = await session.write(async (answered) => {
      const answer = await call('bringLooks', { params, body: { source, byHand, only, keepUnmatched } });
      answered(answer.project);
      return answer;
    });
    setBusy(false);
    if (!r) return;
    const left = r.left ? `${plural(r.left, 'change')} found nothing here and stayed behind.` : '';
    say(`${plural(r.optionIds.length, 'option')} imported`, left);
    onBrought?.(r.optionIds);
    onClose();
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
          <Offered match={m} out={out} onOut={setOut} />
          <div className={styles.lost}>
            <div className={styles.row}>
              <b className={styles.status} role="status">
                {plural(m.things.length - lost, 'object')} of {m.things.length} found
                {lost > 0 && `, ${lost} not`}
              </b>
              <button type="button" className={`dim ${styles.all}`} onClick={() => setAllShown(!isAllShown)}>
                {isAllShown ? 'Only those to look at' : 'Show all'}
              </button>
            </div>
            <FoundTable
              things={m.things}
              isAllShown={isAllShown}
              scene={scene.data}
              byHand={byHand}
              onHand={(target, to) => setByHand((b) => ({ ...b, [target]: to }))}
            />
            {lost > 0 && (
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
        disabled={!m || !only.length || isBusy || match.isFetching}
        onCancel={onClose}
        onGo={() => void bring()}
      />
    </Modal>
  );
}

interface OfferedProps {
  match: LooksMatchAnswer;
  /** Places of options that do not come. */
  out: ReadonlySet<number>;
  onOut: (out: ReadonlySet<number>) => void;
}
function Offered({ match: { from, options, missing }, out, onOut }: OfferedProps) {
  const flip = (i: number) => {
    const next = new Set(out);
    if (!next.delete(i)) next.add(i);
    onOut(next);
  };
  return (
    <div>
      <h4>From “{from}”</h4>
      {options.map((o, i) => (
        <Checkbox
          key={i}
          size="xs"
          mb={6}
          checked={!out.has(i)}
          onChange={() => flip(i)}
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
      {missing.length > 0 && (
        <div className={`notice ${styles.notice}`}>
          Not on this machine: {missing.join(', ')}. Import {missing.length === 1 ? 'it' : 'them'}, or choose others
          afterwards.
        </div>
      )}
    </div>
  );
}
