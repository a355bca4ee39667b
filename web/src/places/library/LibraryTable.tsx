// What the library keeps.
import { Menu } from '@mantine/core';
import type { LibraryEntry } from '@variscen/contract';
import dayjs from 'dayjs';
import { FacetGlyph, facetOr } from '../../ui/glyphs.tsx';
import styles from './LibraryPlace.module.css';

export type EntryQuestion = 'rename' | 'delete';
/** Values of all options of an entry. */
export const valuesIn = (e: LibraryEntry): number => e.options.reduce((n, o) => n + o.changes, 0);

interface Props {
  entries: readonly LibraryEntry[];
  /** There is a project for them. */
  canImport: boolean;
  onImport: (entry: LibraryEntry) => void;
  onSave: (entry: LibraryEntry) => void;
  onAsk: (question: EntryQuestion, entry: LibraryEntry) => void;
}
export function LibraryTable({ entries, canImport, onImport, onSave, onAsk }: Props) {
  return (
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
              <Options entry={e} />
            </td>
            <td className="dim">{e.from}</td>
            <td className="n">{valuesIn(e)}</td>
            <td className="n dim">{dayjs(e.createdAt).format('D MMM YYYY, HH:mm')}</td>
            <td className={styles.menuFrame}>
              <button
                type="button"
                className={`quiet ${styles.quiet}`}
                disabled={!canImport}
                aria-label={`Import ${e.name}`}
                onClick={() => onImport(e)}
              >
                Import…
              </button>
              <Menu position="bottom-end">
                <Menu.Target>
                  <button type="button" className="tool" aria-label={`More for ${e.name}`}>
                    ⋯
                  </button>
                </Menu.Target>
                <Menu.Dropdown>
                  <Menu.Item onClick={() => onSave(e)}>Save as a file</Menu.Item>
                  <Menu.Item onClick={() => onAsk('rename', e)}>Rename…</Menu.Item>
                  <Menu.Item onClick={() => onAsk('delete', e)}>Delete…</Menu.Item>
                </Menu.Dropdown>
              </Menu>
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Options({ entry }: { entry: LibraryEntry }) {
  return (
    <div className={styles.options}>
      {entry.options.map((o, i) => (
        <span key={i} className="chip" title={o.notes || undefined} data-facet={facetOr(o.facet)}>
          <FacetGlyph facet={o.facet} size={11} />
          {o.name}
        </span>
      ))}
    </div>
  );
}
