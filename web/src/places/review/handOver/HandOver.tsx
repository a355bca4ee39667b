// What goes out of the house: contact sheets, tables, deliveries; and notes that come back.
import { Menu } from '@mantine/core';
import type { Project } from '@variscen/contract';
import { useRef, useState } from 'react';
import { download } from '../../../api/client.ts';
import type { Listed } from '../../../model/review/strip.ts';
import { useSession } from '../../../session/projectSession.ts';
import { plural } from '../../../ui/format.ts';
import { say, sayError } from '../../../ui/notify.ts';
import { saveBytes } from '../../../ui/saveBytes.ts';
import { DeliverDialog } from './DeliverDialog.tsx';
import { DeliveriesDialog } from './DeliveriesDialog.tsx';
import { SheetDialog } from './SheetDialog.tsx';
import { notesIn } from './notesFile.ts';

type Opened = 'nothing' | 'sheet' | 'deliver' | 'deliveries';
interface Props {
  readonly project: Project;
  /** Those that are gone through. */
  readonly pictures: readonly Listed[];
}
export function HandOver({ project, pictures }: Props) {
  const [opened, setOpened] = useState<Opened>('nothing');
  const close = () => setOpened('nothing');
  const file = useRef<HTMLInputElement>(null);
  const session = useSession(project.id);
  const ids = pictures.map((l) => l.rendered.id);
  const table = async () => {
    try {
      const bytes = await download('rendersTable', { params: { projectId: project.id }, body: { renderIds: ids } });
      saveBytes(bytes, 'text/csv', `${project.name} pictures.csv`);
    } catch (e) {
      sayError(e);
    }
  };
  const bringNotes = async (chosen: File | undefined) => {
    if (!chosen) return;
    try {
      const found = await session.bringNotes(notesIn(chosen.name, await chosen.text()));
      if (!found) return;
      const gone = found.unknown ? ` ${plural(found.unknown, 'picture')} of it are not in this project.` : '';
      say(`Notes on ${plural(found.brought, 'picture')} are in`, gone.trim());
    } catch (e) {
      sayError(e);
    }
  };
  return (
    <>
      <Menu position="bottom-end" offset={8}>
        <Menu.Target>
          <button type="button" className="quiet">
            Hand over…
          </button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Label>{plural(ids.length, 'picture')} that are shown here</Menu.Label>
          <Menu.Item disabled={!ids.length} onClick={() => setOpened('deliver')}>
            Deliver…
          </Menu.Item>
          <Menu.Item disabled={!ids.length} onClick={() => setOpened('sheet')}>
            Contact sheet…
          </Menu.Item>
          <Menu.Item disabled={!ids.length} onClick={() => void table()}>
            Save a table of them as CSV
          </Menu.Item>
          <Menu.Divider />
          <Menu.Item onClick={() => setOpened('deliveries')}>Deliveries…</Menu.Item>
          <Menu.Item onClick={() => file.current?.click()}>Read notes on a delivery…</Menu.Item>
        </Menu.Dropdown>
      </Menu>
      <input
        ref={file}
        type="file"
        accept=".json,application/json"
        hidden
        aria-label="File of notes"
        onChange={(e) => {
          void bringNotes(e.currentTarget.files?.[0]);
          e.currentTarget.value = '';
        }}
      />
      {opened === 'sheet' && <SheetDialog project={project} pictures={pictures} onClose={close} />}
      {opened === 'deliver' && (
        <DeliverDialog project={project} renderIds={ids} onClose={close} onBegun={() => setOpened('deliveries')} />
      )}
      {opened === 'deliveries' && <DeliveriesDialog project={project} onClose={close} />}
    </>
  );
}
