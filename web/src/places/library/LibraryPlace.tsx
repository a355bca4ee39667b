// Options that outlive a project: kept under names, brought into any project with a report of what is found there.
import type { LibraryEntry, LooksSource } from '@variscen/contract';
import { useQueryClient } from '@tanstack/react-query';
import { useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { call } from '../../api/client.ts';
import { keys, useLibrary, useProject, useProjects } from '../../api/queries.ts';
import { useAddress } from '../../ui/address.ts';
import { plural } from '../../ui/format.ts';
import { say, sayError } from '../../ui/notify.ts';
import { Pick } from '../../shell/Pick.tsx';
import { BringLooks } from './BringLooks.tsx';
import { DeleteEntry, RenameEntry } from './EntryDialogs.tsx';
import { type EntryQuestion, LibraryTable } from './LibraryTable.tsx';
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
  const [asked, setAsked] = useState<{ kind: EntryQuestion; entry: LibraryEntry } | null>(null);
  const open = (projects.data ?? []).filter((p) => p.hasScene);
  const selected =
    open.find((p) => p.id === search.get('into')) ??
    open.find((p) => p.id === localStorage.getItem('variscen.project')) ??
    open[0];
  const project = useProject(selected?.id ?? '');
  const run = async (work: () => Promise<unknown>) => {
    try {
      await work();
      await client.invalidateQueries({ queryKey: keys.library });
      setAsked(null);
    } catch (e) {
      sayError(e);
    }
  };
  const rename = (e: LibraryEntry, name: string) =>
    run(() => call('renameLibraryEntry', { params: { entryId: e.id }, body: { name } }));
  const remove = (e: LibraryEntry) =>
    run(async () => {
      await call('deleteLibraryEntry', { params: { entryId: e.id } });
      say(`“${e.name}” is deleted`);
    });
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
        {selected && (
          <>
            {' They come into '}
            <Pick
              label="Project"
              value={selected.name}
              choices={open.map((p) => ({ id: p.id, label: p.name }))}
              onPick={(id) => put({ into: id })}
            />
            {'.'}
          </>
        )}
        <span className="right">
          <button type="button" className="quiet" disabled={!project.data} onClick={() => file.current?.click()}>
            Import from a file…
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
          <LibraryTable
            entries={entries}
            canImport={project.data !== undefined}
            onImport={(e) => setBringing({ source: { entryId: e.id }, title: `Import “${e.name}”` })}
            onSave={(e) => void save(e)}
            onAsk={(kind, entry) => setAsked({ kind, entry })}
          />
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
      {asked?.kind === 'rename' && (
        <RenameEntry
          entry={asked.entry}
          onClose={() => setAsked(null)}
          onGo={(name) => void rename(asked.entry, name)}
        />
      )}
      {asked?.kind === 'delete' && (
        <DeleteEntry entry={asked.entry} onClose={() => setAsked(null)} onGo={() => void remove(asked.entry)} />
      )}
    </>
  );
}
