// Options that outlive a project: kept under names, brought into any project with a report of what is found there.
import { Menu, Modal, TextInput } from '@mantine/core';
import type { LibraryEntry, LooksSource } from '@variscen/contract';
import { useQueryClient } from '@tanstack/react-query';
import dayjs from 'dayjs';
import { useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { call } from '../../api/client.ts';
import { keys, useLibrary, useProject, useProjects } from '../../api/queries.ts';
import { Buttons } from '../../ui/Buttons.tsx';
import { useAddress } from '../../ui/address.ts';
import { plural } from '../../ui/format.ts';
import { FacetGlyph, facetOr } from '../../ui/glyphs.tsx';
import { say, sayError } from '../../ui/notify.ts';
import { Pick } from '../../shell/Pick.tsx';
import { BringLooks } from './BringLooks.tsx';
import { looksFileName, readLooksFile, saveFile } from './looksFiles.ts';
import styles from './LibraryPlace.module.css';

export function LibraryPlace() {
  const library = useLibrary();
  const projects = useProjects();
  const client = useQueryClient();
  const navigate = useNavigate();
  const [search, put] = useAddress();
  const file = useRef<HTMLInputElement>(null);
  const [bringing, setBringing] = useState<{ source: LooksSource; title: string } | null>(null);
  const [dialog, setDialog] = useState<{ kind: 'rename' | 'delete'; entry: LibraryEntry } | null>(null);
  const [name, setName] = useState('');
  const open = (projects.data ?? []).filter((p) => p.hasScene);
  const chosen =
    open.find((p) => p.id === search.get('into')) ??
    open.find((p) => p.id === localStorage.getItem('variscen.project')) ??
    open[0];
  const project = useProject(chosen?.id ?? '');
  const run = async (work: () => Promise<unknown>) => {
    try {
      await work();
      await client.invalidateQueries({ queryKey: keys.library });
      setDialog(null);
    } catch (e) {
      sayError(e);
    }
  };
  const save = async (e: LibraryEntry) => {
    try {
      saveFile(looksFileName(e.name), await call('libraryFile', { params: { entryId: e.id } }));
    } catch (x) {
      sayError(x);
    }
  };
  const entries = library.data ?? [];
  return (
    <>
      <header className="sentence">
        {entries.length ? (
          <>
            The library keeps <b className="pick">{plural(entries.length, 'entry', 'entries')}</b> of options.
          </>
        ) : (
          'The library keeps options for other projects.'
        )}
        {chosen && (
          <>
            {' They come into '}
            <Pick
              label="Project"
              value={chosen.name}
              choices={open.map((p) => ({ id: p.id, label: p.name }))}
              onPick={(id) => put({ into: id })}
            />
            {'.'}
          </>
        )}
        <span className="right">
          <button type="button" className="quiet" disabled={!project.data} onClick={() => file.current?.click()}>
            Bring in from a file…
          </button>
        </span>
      </header>
      <input
        ref={file}
        type="file"
        hidden
        accept=".json"
        aria-label="File of options"
        onChange={(e) => {
          const f = e.currentTarget.files?.[0];
          e.currentTarget.value = '';
          if (f)
            void readLooksFile(f).then((source) => setBringing({ source, title: `Import from “${f.name}”` }), sayError);
        }}
      />
      <main className={`place ${styles.place}`}>
        {library.data && entries.length === 0 && (
          <div className="empty">
            <h1>Nothing is kept yet</h1>
            <p>On the stage, an option’s menu saves it here, alone or with others.</p>
          </div>
        )}
        {entries.length > 0 && (
          <table className="rows">
            <thead>
              <tr>
                <th>Name</th>
                <th>Options</th>
                <th>From</th>
                <th className="n">Values</th>
                <th className="n">Saved</th>
                <th />
              </tr>
            </thead>
            <tbody>
              {entries.map((e) => (
                <tr key={e.id}>
                  <td className={styles.name}>{e.name}</td>
                  <td>
                    <div className={styles.options}>
                      {e.options.map((o, i) => (
                        <span key={i} className="chip" title={o.notes || undefined} data-facet={facetOr(o.facet)}>
                          <FacetGlyph facet={o.facet} size={11} />
                          {o.name}
                        </span>
                      ))}
                    </div>
                  </td>
                  <td className="dim">{e.from}</td>
                  <td className="n">{e.options.reduce((n, o) => n + o.changes, 0)}</td>
                  <td className="n dim">{dayjs(e.createdAt).format('D MMM YYYY, HH:mm')}</td>
                  <td className={styles.menuFrame}>
                    <button
                      type="button"
                      className={`quiet ${styles.quiet}`}
                      disabled={!project.data}
                      aria-label={`Import ${e.name}`}
                      onClick={() => setBringing({ source: { entryId: e.id }, title: `Import “${e.name}”` })}
                    >
                      Bring in…
                    </button>
                    <Menu position="bottom-end">
                      <Menu.Target>
                        <button type="button" className="tool" aria-label={`More for ${e.name}`}>
                          ⋯
                        </button>
                      </Menu.Target>
                      <Menu.Dropdown>
                        <Menu.Item onClick={() => void save(e)}>Save as a file</Menu.Item>
                        <Menu.Item
                          onClick={() => {
                            setName(e.name);
                            setDialog({ kind: 'rename', entry: e });
                          }}
                        >
                          Rename…
                        </Menu.Item>
                        <Menu.Item onClick={() => setDialog({ kind: 'delete', entry: e })}>Delete…</Menu.Item>
                      </Menu.Dropdown>
                    </Menu>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </main>
      {bringing && project.data && (
        <BringLooks
          project={project.data}
          {...bringing}
          onClose={() => setBringing(null)}
          onBrought={(ids) => void navigate(`/projects/${project.data!.id}/stage?to=option:${ids[0]!}`)}
        />
      )}
      <Modal opened={dialog?.kind === 'rename'} onClose={() => setDialog(null)} title="Rename the entry">
        {dialog && (
          <form
            onSubmit={(e) => {
              e.preventDefault();
              void run(() => call('renameLibraryEntry', { params: { entryId: dialog.entry.id }, body: { name } }));
            }}
          >
            <TextInput
              data-autofocus
              label="Name"
              value={name}
              onChange={(e) => setName(e.currentTarget.value)}
              maxLength={120}
            />
            <Buttons label="Rename entry" disabled={!name.trim()} onCancel={() => setDialog(null)} />
          </form>
        )}
      </Modal>
      <Modal
        opened={dialog?.kind === 'delete'}
        onClose={() => setDialog(null)}
        title={dialog ? `Delete “${dialog.entry.name}” from the library?` : ''}
      >
        {dialog && (
          <>
            <p>
              {plural(dialog.entry.options.length, 'option')} with{' '}
              {plural(
                dialog.entry.options.reduce((n, o) => n + o.changes, 0),
                'value',
              )}{' '}
              go for good. Options that were made of it in projects stay. Save it as a file first if it may be wanted.
            </p>
            <Buttons
              label="Delete entry"
              onCancel={() => setDialog(null)}
              onGo={() =>
                void run(async () => {
                  await call('deleteLibraryEntry', { params: { entryId: dialog.entry.id } });
                  say(`“${dialog.entry.name}” is deleted`);
                })
              }
            />
          </>
        )}
      </Modal>
    </>
  );
}
