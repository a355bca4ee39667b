// Options are saved for other projects: to the library under a name, or to a file.
import { Checkbox, Modal, TextInput } from '@mantine/core';
import type { Project } from '@variscen/contract';
import { useState } from 'react';
import { call, pathOf } from '../../../api/client.ts';
import { plural } from '../../../ui/format.ts';
import { FACETS, FacetGlyph, facetOr } from '../../../ui/glyphs.tsx';
import { say, sayError } from '../../../ui/notify.ts';
import { looksFileName, saveFile } from '../../library/looksFiles.ts';
import styles from './SaveOptions.module.css';

export function SaveOptions({ project, first, onClose }: { project: Project; first: string; onClose: () => void }) {
  const [ids, setIds] = useState<ReadonlySet<string>>(new Set([first]));
  const [name, setName] = useState(project.options.find((o) => o.id === first)?.name ?? '');
  const [busy, setBusy] = useState(false);
  const selected = project.options.filter((o) => ids.has(o.id));
  const materials = selected.filter((o) => o.facet === 'materials');
  const run = async (work: () => Promise<void>) => {
    setBusy(true);
    try {
      await work();
      onClose();
    } catch (e) {
      sayError(e);
    } finally {
      setBusy(false);
    }
  };
  const toFile = () =>
    run(async () => {
      saveFile(
        looksFileName(name),
        await call('packLooks', {
          params: { projectId: project.id },
          query: { options: selected.map((o) => o.id).join(',') },
        }),
      );
    });
  const toLibrary = () =>
    run(async () => {
      await call('saveToLibrary', {
        body: { projectId: project.id, optionIds: selected.map((o) => o.id), name: name.trim() },
      });
      say(`“${name.trim()}” is in the library`, 'Any project can import it.');
    });
  return (
    <Modal opened onClose={onClose} title="Save options for other projects">
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void toLibrary();
        }}
      >
        <TextInput
          data-autofocus
          label="Name"
          value={name}
          onChange={(e) => setName(e.currentTarget.value)}
          maxLength={120}
          mb={12}
        />
        <div className={styles.options}>
          {FACETS.flatMap((f) => project.options.filter((o) => o.facet === f)).map((o) => (
            <Checkbox
              key={o.id}
              size="xs"
              mb={5}
              aria-label={o.name}
              checked={ids.has(o.id)}
              onChange={() =>
                setIds((s) => {
                  const n = new Set(s);
                  if (!n.delete(o.id)) n.add(o.id);
                  return n;
                })
              }
              label={
                <span className="chip" data-facet={facetOr(o.facet)}>
                  <FacetGlyph facet={o.facet} size={11} />
                  {o.name}
                  <span className="faint">{plural(o.changes.length, 'value')}</span>
                </span>
              }
            />
          ))}
        </div>
        {materials.length > 0 && (
          <p className={`dim ${styles.with}`}>
            Or{' '}
            <a
              href={`${pathOf('exportScene', { projectId: project.id })}?options=${materials.map((o) => o.id).join(',')}`}
              className={styles.saveTheScene}
            >
              save the scene as GLB
            </a>{' '}
            with {plural(materials.length, 'option')} of Materials as its material variants. Animation, skins and morph
            targets are not in it.
          </p>
        )}
        <div className={styles.row}>
          <button type="button" className="quiet" onClick={onClose}>
            Cancel
          </button>
          <button
            type="button"
            className="quiet"
            disabled={!selected.length || !name.trim() || busy}
            onClick={() => void toFile()}
          >
            Save as a file
          </button>
          <button type="submit" className="go" disabled={!selected.length || !name.trim() || busy}>
            Save {plural(selected.length, 'option')} to the library
          </button>
        </div>
      </form>
    </Modal>
  );
}
