// All combinations of selected options at once: how many there will be stands there before they are made, and single
// ones are left out.
import { Checkbox, Modal, TextInput } from '@mantine/core';
import type { Project } from '@variscen/contract';
import { FACET_NAMES, type Facet, combinations, faultOfVariantTemplate, variantName } from '@variscen/core/looks';
import { useState } from 'react';
import { call } from '../../api/client.ts';
import { useSession } from '../../session/projectSession.ts';
import { Buttons } from '../../ui/Buttons.tsx';
import { plural } from '../../ui/format.ts';
import { FACETS, FacetGlyph, facetOr } from '../../ui/glyphs.tsx';
import { say } from '../../ui/notify.ts';
import styles from './CombineDialog.module.css';

const MOST = 2000;
const LISTED = 240;

export function CombineDialog({ project, onClose }: { project: Project; onClose: () => void }) {
  const session = useSession(project.id);
  const [selected, setSelected] = useState<Partial<Record<Facet, readonly (string | null)[]>>>({});
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const [template, setTemplate] = useState(project.variantTemplate);
  const [busy, setBusy] = useState(false);
  const facets = FACETS.filter((f) => project.options.some((o) => o.facet === f));
  const total = facets.reduce((n, f) => n * Math.max(1, selected[f]?.length ?? 0), 1);
  const any = facets.some((f) => selected[f]?.some((id) => id !== null));
  const all = any && total <= MOST ? combinations(selected) : [];
  const there = new Set(project.variants.map((v) => v.optionIds.join()));
  const made = all.filter((ids) => !there.has(ids.join()));
  const wanted = made.filter((ids) => !left.has(ids.join()));
  const fault = faultOfVariantTemplate(template);
  const optionsOf = (ids: readonly string[]) =>
    ids.map((id) => project.options.find((o) => o.id === id)).filter((o) => o !== undefined);
  const nameOf = (ids: readonly string[]) => variantName(fault ? project.variantTemplate : template, optionsOf(ids));
  // in the order of the list, the base first, whatever the order of choosing
  const toggle = (f: Facet, id: string | null) =>
    setSelected((c) => {
      const now = new Set(c[f] ?? []);
      if (!now.delete(id)) now.add(id);
      return {
        ...c,
        [f]: [null, ...project.options.filter((o) => o.facet === f).map((o) => o.id)].filter((x) => now.has(x)),
      };
    });
  const make = async () => {
    setBusy(true);
    const params = { projectId: project.id };
    const made = await session.write(async (answered) => {
      if (template !== project.variantTemplate) {
        await call('updateProject', { params, body: { variantTemplate: template } });
      }
      const answer = await call('createVariants', { params, body: { combinations: wanted } });
      answered(answer.project);
      return answer;
    });
    setBusy(false);
    if (!made) return;
    const cells = made.project.cameras.length * made.project.variants.length;
    say(`${plural(made.variantIds.length, 'variant')} made`, `The board has ${plural(cells, 'cell')} now.`);
    onClose();
  };
  return (
    <Modal opened onClose={onClose} title="Combine options" size={820}>
      {facets.length === 0 ? (
        <p className="dim">There are no options yet. Record one on the stage first.</p>
      ) : (
        <div className={styles.columns}>
          <div className={styles.facets}>
            {facets.map((f) => (
              <fieldset key={f} className={styles.options}>
                <legend className={`chip ${styles.chip}`} data-facet={facetOr(f)}>
                  <FacetGlyph facet={f} />
                  {FACET_NAMES[f]}
                </legend>
                <Checkbox
                  size="xs"
                  mb={4}
                  label={<span className="dim">The base</span>}
                  aria-label={`${FACET_NAMES[f]}: the base`}
                  checked={selected[f]?.includes(null) ?? false}
                  onChange={() => toggle(f, null)}
                />
                {project.options
                  .filter((o) => o.facet === f)
                  .map((o) => (
                    <Checkbox
                      key={o.id}
                      size="xs"
                      mb={4}
                      label={o.name}
                      checked={selected[f]?.includes(o.id) ?? false}
                      onChange={() => toggle(f, o.id)}
                    />
                  ))}
              </fieldset>
            ))}
          </div>
          <div className={styles.total}>
            <TextInput
              size="xs"
              label="Names"
              description={fault ? undefined : '{options}, or single facets such as {lighting} and {materials}'}
              error={fault}
              value={template}
              onChange={(e) => setTemplate(e.currentTarget.value)}
              maxLength={300}
              mb={10}
            />
            {total > MOST && any && (
              <div className="notice" role="alert">
                {total.toLocaleString('en')} combinations are more than {MOST.toLocaleString('en')}: choose fewer
                options.
              </div>
            )}
            {!any && (
              <p className="dim">
                Choose options at the left. Each facet with several selected ones multiplies; a facet with none stays as
                in the base.
              </p>
            )}
            {any && total <= MOST && (
              <p className={styles.all}>
                <b className={styles.status} role="status">
                  {facets
                    .filter((f) => (selected[f]?.length ?? 0) > 0)
                    .map((f) => selected[f]!.length)
                    .join(' × ')}{' '}
                  = {plural(total, 'combination')}
                </b>
                {all.length > made.length && (
                  <span className="dim">, {all.length - made.length} of them there already</span>
                )}
                {made.length > wanted.length && <span className="dim">, {made.length - wanted.length} left out</span>}
              </p>
            )}
            <div className={styles.made}>
              {made.slice(0, LISTED).map((ids) => (
                <Checkbox
                  key={ids.join()}
                  size="xs"
                  mb={4}
                  label={nameOf(ids)}
                  checked={!left.has(ids.join())}
                  onChange={() =>
                    setLeft((s) => {
                      const n = new Set(s);
                      if (!n.delete(ids.join())) n.add(ids.join());
                      return n;
                    })
                  }
                />
              ))}
              {made.length > LISTED && <p className="dim">and {made.length - LISTED} more</p>}
            </div>
          </div>
        </div>
      )}
      <Buttons
        label={wanted.length ? `Make ${plural(wanted.length, 'variant')}` : 'Make variants'}
        disabled={!wanted.length || fault !== undefined || busy}
        onCancel={onClose}
        onGo={() => void make()}
      />
    </Modal>
  );
}
