// Bringing a scene in: picked or dropped, alone or with the files it needs, at a scale; its progress, and a way to stop
// it.
import { NumberInput, Select } from '@mantine/core';
import { type ReactNode, useRef, useState } from 'react';
import { uploadScene } from '../../api/client.ts';
import { useProgress } from '../../api/progress.ts';
import { sayError } from '../../ui/notify.ts';
import { type Dropped, pickedFiles, droppedFiles, packFiles } from './packFiles.ts';
import { Bar } from '../../ui/Bar.tsx';
import styles from './BringScene.module.css';

export const SCENE_FILES = '.glb,.gltf,.bin,.obj,.mtl,.zip,.png,.jpg,.jpeg,.webp,.ktx2';
const SCALES = [
  ['m', 'Metres', 1],
  ['cm', 'Centimetres', 0.01],
  ['mm', 'Millimetres', 0.001],
  ['in', 'Inches', 0.0254],
  ['ft', 'Feet', 0.3048],
  ['km', 'Kilometres', 1000],
  ['own', 'Another scale', null],
] as const;

interface Upload {
  readonly fileName: string;
  readonly state: 'packing' | 'sending' | 'reading';
  readonly sent: number;
  readonly stop: AbortController;
}

export function useBringScene(projectId: string, onDone: () => void) {
  const [upload, setUpload] = useState<Upload | null>(null);
  const bring = async (files: readonly Dropped[], metresPerUnit?: number) => {
    const stop = new AbortController();
    setUpload({ fileName: files[0]?.file.name ?? '', state: files.length > 1 ? 'packing' : 'sending', sent: 0, stop });
    try {
      const { name, body } = await packFiles(files);
      if (stop.signal.aborted) return;
      useProgress.getState().take({ type: 'import', projectId, fraction: 0 });
      await uploadScene(
        projectId,
        name,
        body,
        metresPerUnit,
        (sent) => setUpload((u) => u && { ...u, state: sent < 1 ? 'sending' : 'reading', sent }),
        stop.signal,
      );
      onDone();
    } catch (e) {
      sayError(e);
    } finally {
      setUpload(null);
    }
  };
  return { upload, bring };
}

export function UploadLine({ upload, projectId }: { upload: Upload; projectId: string }) {
  const read = useProgress((s) => s.imports[projectId]) ?? 0;
  const received = upload.state === 'reading' ? read : 0;
  const fraction = upload.state === 'sending' ? upload.sent : received;
  return (
    <div className={styles.status} role="status">
      <div className={styles.box}>
        <div className="dim ellipsis">
          {
            {
              packing: 'Putting the files together',
              sending: `Sending ${Math.round(upload.sent * 100)} %`,
              reading: `Reading ${Math.round(read * 100)} %`,
            }[upload.state]
          }{' '}
          · {upload.fileName}
        </div>
        <Bar fraction={fraction} />
      </div>
      <button type="button" className={`quiet ${styles.quiet}`} onClick={() => upload.stop.abort()}>
        Cancel
      </button>
    </div>
  );
}

/** A place to drop files on, with what it shows inside. */
function DropPlace({ onFiles, children }: { onFiles: (files: Dropped[]) => void; children: ReactNode }) {
  const [over, setOver] = useState(false);
  return (
    <div
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        void droppedFiles(e.dataTransfer).then((f) => {
          if (f.length) onFiles(f);
        });
      }}
      className={styles.dropPlace}
      data-over={over}
    >
      {children}
    </div>
  );
}

export function BringScene({ projectId, first, onDone }: { projectId: string; first: boolean; onDone: () => void }) {
  const file = useRef<HTMLInputElement>(null);
  const [scale, setScale] = useState<string>('m');
  const [own, setOwn] = useState<number>(1);
  const { upload, bring } = useBringScene(projectId, onDone);
  const factor = scale === 'own' ? own : (SCALES.find(([id]) => id === scale)?.[2] ?? 1);
  const go = (files: readonly Dropped[]) => void bring(files, factor === 1 ? undefined : factor);
  return (
    <DropPlace onFiles={go}>
      <input
        ref={file}
        type="file"
        multiple
        accept={SCENE_FILES}
        hidden
        aria-label="Scene files"
        onChange={(e) => {
          const f = e.currentTarget.files ? pickedFiles(e.currentTarget.files) : [];
          e.currentTarget.value = '';
          if (f.length) go(f);
        }}
      />
      {upload ? (
        <UploadLine upload={upload} projectId={projectId} />
      ) : (
        <>
          <div>
            {first ? 'Drop a scene here, or choose it.' : 'Drop a newer file of the scene here, or choose it.'}{' '}
            <span className="dim">
              A .glb, a .gltf or an .obj with the files beside it, or a .zip of them; up to 2 GB.
            </span>
          </div>
          <div className={styles.scale}>
            <button type="button" className={first ? 'go' : 'quiet'} onClick={() => file.current?.click()}>
              {first ? 'Import a scene…' : 'Import a newer scene…'}
            </button>
            <span className="dim">One unit of the file is</span>
            <Select
              size="xs"
              w={140}
              aria-label="Unit of the file"
              value={scale}
              data={SCALES.map(([id, label]) => ({
                value: id,
                label:
                  id === 'own'
                    ? label
                    : `a ${label
                        .toLowerCase()
                        .replace(/feet/, 'foot')
                        .replace(/inches/, 'inch')
                        .replace(/s$/, '')}`.replace('a inch', 'an inch'),
              }))}
              allowDeselect={false}
              onChange={(v) => setScale(v ?? 'm')}
            />
            {scale === 'own' && (
              <NumberInput
                size="xs"
                w={120}
                aria-label="Metres a unit"
                suffix=" m"
                min={1e-6}
                max={1e6}
                decimalScale={8}
                value={own}
                onChange={(v) => {
                  if (typeof v === 'number' && v >= 1e-6 && v <= 1e6) setOwn(v);
                }}
              />
            )}
          </div>
        </>
      )}
    </DropPlace>
  );
}
