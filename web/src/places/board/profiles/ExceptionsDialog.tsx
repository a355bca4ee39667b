// What is rendered otherwise for the selected cells or their cameras, and all exceptions of the project in one list.
import { Modal, SegmentedControl } from '@mantine/core';
import type { BoardCell, Project } from '@variscen/contract';
import { type Profile, type ProfileException, type ProfileSettings, profileFor } from '@variscen/core/plan';
import { useState } from 'react';
import { call } from '../../../api/client.ts';
import { useSession } from '../../../session/projectSession.ts';
import { plural } from '../../../ui/format.ts';
import { ProfileFields } from './ProfileFields.tsx';
import { EXCEPTABLE, type Exceptable, settingWords } from './profileFields.ts';
import styles from './Profiles.module.css';

interface Props {
  readonly project: Project;
  readonly profile: Profile;
  readonly cells: readonly BoardCell[];
  readonly onClose: () => void;
}
type Of = 'cells' | 'cameras';
type From = 'this' | 'every';

export function ExceptionsDialog({ project, profile, cells, onClose }: Props) {
  return (
    <Modal opened onClose={onClose} title="Exceptions" size={860}>
      {cells.length > 0 && <Form project={project} profile={profile} cells={cells} />}
      <AllExceptions project={project} profile={profile} />
    </Modal>
  );
}

function useSetting(project: Project) {
  const session = useSession(project.id);
  const params = { projectId: project.id };
  return (exceptions: readonly ProfileException[]) =>
    session.writeProject(() => call('putExceptions', { params, body: { exceptions: exceptions as never } }));
}

function Form({ project, profile, cells }: Omit<Props, 'onClose'>) {
  const set = useSetting(project);
  const all = project.exceptions as readonly ProfileException[];
  const [first] = cells;
  const [of, setOf] = useState<Of>('cells');
  const [from, setFrom] = useState<From>('this');
  const [excepted, setExcepted] = useState<ReadonlySet<Exceptable>>(new Set());
  const [value, setValue] = useState<ProfileSettings>(() => profileFor(profile, all, first!));
  const cameras = [...new Set(cells.map((c) => c.cameraId))];
  const profileId = from === 'this' ? profile.id : null;
  const places =
    of === 'cameras'
      ? cameras.map((cameraId) => ({ cameraId, variantId: null, profileId }))
      : cells.map(({ cameraId, variantId }) => ({ cameraId, variantId, profileId }));
  const keep = () => {
    const keys = EXCEPTABLE.filter(([name]) => excepted.has(name)).flatMap(([, , own]) => own);
    const settings = Object.fromEntries(keys.map((k) => [k, value[k]]));
    void set(places.map((place) => ({ ...place, settings: { ...settingsAt(all, place), ...settings } })));
    setExcepted(new Set());
  };
  const toggle = (name: Exceptable) => {
    const next = new Set(excepted);
    if (!next.delete(name)) next.add(name);
    setExcepted(next);
  };
  const what = of === 'cameras' ? plural(cameras.length, 'camera') : plural(cells.length, 'cell');
  return (
    <form
      aria-label="Exception"
      onSubmit={(e) => {
        e.preventDefault();
        keep();
      }}
    >
      <div className={styles.scope}>
        <SegmentedControl
          size="xs"
          aria-label="For"
          value={of}
          onChange={(v) => setOf(v as Of)}
          data={[
            { value: 'cells', label: `For ${plural(cells.length, 'selected cell')}` },
            { value: 'cameras', label: `For ${plural(cameras.length, 'camera')}, all variants` },
          ]}
        />
        <SegmentedControl
          size="xs"
          aria-label="From"
          value={from}
          onChange={(v) => setFrom(v as From)}
          data={[
            { value: 'this', label: `From ${profile.name}` },
            { value: 'every', label: 'From every profile' },
          ]}
        />
      </div>
      <p className="dim">Tick what is rendered otherwise; all else stays as the profile says.</p>
      <ProfileFields
        value={value}
        onChange={(part) => setValue({ ...value, ...part })}
        excepted={{ has: (name) => excepted.has(name), toggle }}
      />
      <div className={styles.foot}>
        <span />
        <button type="submit" className="go" disabled={excepted.size === 0}>
          Make an exception of {what}
        </button>
      </div>
    </form>
  );
}

const isAt = (e: ProfileException, at: Omit<ProfileException, 'settings'>): boolean =>
  e.cameraId === at.cameraId && e.variantId === at.variantId && e.profileId === at.profileId;
const settingsAt = (all: readonly ProfileException[], at: Omit<ProfileException, 'settings'>) =>
  all.find((e) => isAt(e, at))?.settings ?? {};

function AllExceptions({ project, profile }: { project: Project; profile: Profile }) {
  const set = useSetting(project);
  const all = project.exceptions as readonly ProfileException[];
  const nameOf = (list: readonly { id: string; name: string }[], id: string | null, none: string) =>
    id === null ? none : (list.find((x) => x.id === id)?.name ?? 'deleted');
  if (!all.length) return <p className="dim">No camera and no cell of this project is an exception yet.</p>;
  return (
    <table className={`rows ${styles.exceptions}`} aria-label="Exceptions of the project">
      <thead>
        <tr>
          <th>Camera</th>
          <th>Variant</th>
          <th>From</th>
          <th>Otherwise</th>
          <th />
        </tr>
      </thead>
      <tbody>
        {all.map((e) => {
          const camera = nameOf(project.cameras, e.cameraId, '');
          const variant = nameOf(project.variants, e.variantId, 'all');
          const from = nameOf([profile, ...project.profiles], e.profileId, 'every profile');
          return (
            <tr key={`${e.cameraId} ${e.variantId} ${e.profileId}`}>
              <td>{camera}</td>
              <td>{variant}</td>
              <td>{from === 'deleted' ? e.profileId : from}</td>
              <td>{settingWords(e.settings)}</td>
              <td>
                <button
                  type="button"
                  className="quiet"
                  aria-label={`Remove the exception of ${camera}, ${variant}`}
                  onClick={() => void set([{ ...e, settings: {} }])}
                >
                  Remove
                </button>
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
