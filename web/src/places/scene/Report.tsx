// What an import read and what it did not, by name; kept with the revision.
import type { Revision } from '@variscen/contract';
import type { ImportReport } from '@variscen/core/scene';
import { bytes, count, metres, plural } from '../../ui/format.ts';
import styles from './Report.module.css';
import { RevisionPicture } from './RevisionPicture.tsx';

const KIND_WORDS: Readonly<Record<string, string>> = {
  'bad-geometry': 'Bad geometry',
  'degenerate-triangles': 'Flat triangles',
  'missing-texture': 'Missing texture',
  'damaged-texture': 'Damaged texture',
  'unread-texture': 'Texture not read',
  'flat-object': 'Flat object',
  'unread-extension': 'Extension not read',
  'unread-feature': 'Not read',
  approximated: 'Approximated',
  ignored: 'Not used',
};

export function Report({ revision }: { revision: Revision }) {
  const r = revision.report as ImportReport;
  const size = r.sizeM;
  const largest = Math.max(...size);
  const rows: [string, string][] = [
    ['File', `${r.fileName} · ${bytes(r.fileBytes)}`],
    ['Objects', count(r.objects)],
    ['Groups', count(r.groups)],
    ['Meshes', count(r.meshes)],
    ['Triangles, placed', count(r.trianglesPlaced)],
    ['Triangles, stored', count(r.trianglesStored)],
    ['Materials', count(r.materials)],
    ['Textures, decoded', `${count(r.textures)} · ${bytes(r.textureBytes)}`],
    ['Lights', count(r.lights)],
    ['Cameras', count(r.cameras)],
    ['Size of the whole', size.map(metres).join(' × ')],
  ];
  return (
    <>
      <div className={styles.read}>
        <div className={`kv ${styles.kv}`}>
          {rows.map(([k, v]) => [<span key={k}>{k}</span>, <b key={`${k} value`}>{v}</b>])}
        </div>
        <RevisionPicture revision={revision} />
      </div>
      {(largest > 5000 || (largest > 0 && largest < 0.02)) && (
        <p className={`notice ${styles.notice}`}>
          The whole is {metres(largest)} long. If that is not so, bring the file in again with another unit.
        </p>
      )}
      <h4 className={styles.faults}>{r.faults.length ? plural(r.faults.length, 'remark') : 'Nothing was left out.'}</h4>
      {r.faults.length > 0 && (
        <table className={`rows ${styles.rows}`}>
          <thead>
            <tr>
              <th className={styles.what}>What</th>
              <th className={styles.where}>Where</th>
              <th>Remark</th>
            </tr>
          </thead>
          <tbody>
            {r.faults.map((f, i) => (
              <tr key={i}>
                <td className="dim">{KIND_WORDS[f.kind] ?? f.kind}</td>
                <td className={`ellipsis ${styles.subject}`} title={f.subject}>
                  {f.subject}
                </td>
                <td>{f.message}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}
