// Profiles: looked at, made from another, changed, kept in the project or in the library, deleted.
import { Checkbox, Modal, TextInput } from '@mantine/core';
import { useQueryClient } from '@tanstack/react-query';
import { type Project, profileSettingsSchema } from '@variscen/contract';
import type { Profile, ProfileSettings } from '@variscen/core/plan';
import { faultOfFolder, faultOfTemplate } from '@variscen/core/plan';
import { useState } from 'react';
import { call } from '../../../api/client.ts';
import { keys, useProfiles } from '../../../api/queries.ts';
import { useSession } from '../../../session/projectSession.ts';
import { sayError } from '../../../ui/notify.ts';
import { NameTemplate } from './NameTemplate.tsx';
import { ProfileFields } from './ProfileFields.tsx';
import { HOME_WORDS, type KeptProfile, type ProfileHome, useProfileList } from './useProfileList.ts';
import styles from './Profiles.module.css';

interface Props {
  readonly project: Project;
  readonly profileId: string;
  readonly onSelect: (id: string) => void;
  readonly onClose: () => void;
}

export function ProfilesDialog({ project, profileId, onSelect, onClose }: Props) {
  const all = useProfileList(project);
  const current = all.find((x) => x.profile.id === profileId) ?? all[0];
  return (
    <Modal opened onClose={onClose} title="Profiles" size={960}>
      <div className={styles.dialog}>
        <ProfileNames all={all} current={current} project={project} onSelect={onSelect} />
        {current && (
          <ProfileForm
            key={`${current.profile.id} ${JSON.stringify(current.profile)}`}
            project={project}
            kept={current}
            onSelect={onSelect}
          />
        )}
      </div>
    </Modal>
  );
}

/** Name, and the settings without what the API takes in its path. */
const bodyOf = ({ id: _, ...rest }: Profile) => rest;

function useKeeping(project: Project) {
  const client = useQueryClient();
  const session = useSession(project.id);
  const inLibrary = async (what: () => Promise<unknown>) => {
    try {
      await what();
      await client.invalidateQueries({ queryKey: keys.profiles });
      return true;
    } catch (e) {
      sayError(e);
      return false;
    }
  };
  const inProject = async (what: () => Promise<Project>) => (await session.writeProject(what)) !== undefined;
  return {
    put: (home: ProfileHome, profile: Profile) => {
      const params = { profileId: profile.id };
      const body = bodyOf(profile) as never;
      return home === 'library'
        ? inLibrary(() => call('putLibraryProfile', { params, body }))
        : inProject(() => call('putProfile', { params: { projectId: project.id, ...params }, body }));
    },
    remove: (home: ProfileHome, profileId: string) =>
      home === 'library'
        ? inLibrary(() => call('deleteLibraryProfile', { params: { profileId } }))
        : inProject(() => call('deleteProfile', { params: { projectId: project.id, profileId } })),
  };
}

function freeName(all: readonly KeptProfile[], base: string): string {
  const taken = new Set(all.map((x) => x.profile.name.toLowerCase()));
  let name = base;
  for (let k = 2; taken.has(name.toLowerCase()); k++) name = `${base} ${k}`;
  return name;
}
/** Without a secure context there is no crypto.randomUUID. */
function newId(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  bytes[6] = (bytes[6]! & 15) | 64;
  bytes[8] = (bytes[8]! & 63) | 128;
  const hex = [...bytes].map((b) => b.toString(16).padStart(2, '0')).join('');
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20)].join('-');
}

function ProfileNames({
  all,
  current,
  project,
  onSelect,
}: {
  all: readonly KeptProfile[];
  current: KeptProfile | undefined;
  project: Project;
  onSelect: (id: string) => void;
}) {
  const keeping = useKeeping(project);
  const add = async () => {
    if (!current) return;
    const profile = { ...current.profile, id: newId(), name: freeName(all, `${current.profile.name} copy`) };
    if (await keeping.put('project', profile)) onSelect(profile.id);
  };
  return (
    <div className={styles.list}>
      {(Object.keys(HOME_WORDS) as ProfileHome[]).map((home) => {
        const here = all.filter((x) => x.home === home);
        if (!here.length) return null;
        return (
          <div key={home} role="group" aria-label={HOME_WORDS[home]}>
            <h4 className={styles.heading}>{HOME_WORDS[home]}</h4>
            {here.map(({ profile }) => (
              <button
                key={profile.id}
                type="button"
                className={`ellipsis ${styles.profile}`}
                aria-pressed={profile.id === current?.profile.id}
                onClick={() => onSelect(profile.id)}
              >
                {profile.name}
              </button>
            ))}
          </div>
        );
      })}
      <button type="button" className={`quiet ${styles.add}`} onClick={() => void add()}>
        Make a profile from this one
      </button>
    </div>
  );
}

function ProfileForm({
  project,
  kept: { profile, home },
  onSelect,
}: {
  project: Project;
  kept: KeptProfile;
  onSelect: (id: string) => void;
}) {
  const [now, setNow] = useState(profile);
  const keeping = useKeeping(project);
  const isOwn = home === 'own';
  const set = (part: Partial<ProfileSettings>) => setNow((p) => ({ ...p, ...part }));
  const fault = faultOf(now);
  const isChanged = JSON.stringify(now) !== JSON.stringify(profile);
  const moveTo = async (to: ProfileHome) => {
    const moved = { ...now, id: newId() };
    if (!(await keeping.put(to, moved))) return;
    await keeping.remove(home, profile.id);
    onSelect(moved.id);
  };
  return (
    <form
      className={styles.form}
      aria-label={`Profile ${profile.name}`}
      onSubmit={(e) => {
        e.preventDefault();
        void keeping.put(home, now);
      }}
    >
      {isOwn ? (
        <p className="dim">
          {profile.name} comes with Variscen and stays as it is. Make a profile from it to change it.
        </p>
      ) : (
        <TextInput
          size="xs"
          label="Name"
          maxLength={120}
          value={now.name}
          onChange={(e) => setNow({ ...now, name: e.currentTarget.value })}
        />
      )}
      <fieldset disabled={isOwn} className={styles.plainSet}>
        <ProfileFields value={now} onChange={isOwn ? () => undefined : set} />
        <Naming project={project} profile={now} onChange={(nameTemplate) => set({ nameTemplate })} />
        <OutputFolder folder={now.outputFolder} onChange={(outputFolder) => set({ outputFolder })} />
      </fieldset>
      {fault && <div className="notice">{fault}</div>}
      {!isOwn && (
        <div className={styles.foot}>
          <div className={styles.side}>
            <button
              type="button"
              className="quiet"
              onClick={() => void keeping.remove(home, profile.id).then((gone) => gone && onSelect('sketch'))}
            >
              Delete {profile.name}
            </button>
            <button
              type="button"
              className="quiet"
              onClick={() => void moveTo(home === 'project' ? 'library' : 'project')}
            >
              {home === 'project' ? 'Move to the library' : 'Move to this project'}
            </button>
          </div>
          <button type="submit" className="go" disabled={!isChanged || fault !== undefined}>
            Keep changes
          </button>
        </div>
      )}
    </form>
  );
}

function Naming({
  project,
  profile,
  onChange,
}: {
  project: Project;
  profile: Profile;
  onChange: (template: string | null) => void;
}) {
  const own = profile.nameTemplate;
  return (
    <div className={styles.fields}>
      <span className={styles.label}>File names</span>
      <div className={styles.template}>
        <Checkbox
          size="xs"
          label="By a template of its own"
          checked={own !== null}
          onChange={(e) => onChange(e.currentTarget.checked ? project.nameTemplate : null)}
        />
        {own !== null && <NameTemplate project={project} profile={profile} value={own} onChange={onChange} />}
      </div>
    </div>
  );
}

/** Typed: below the application's own folder, or from “/” on, below one that was allowed when it was started. */
function OutputFolder({ folder, onChange }: { folder: string | null; onChange: (folder: string | null) => void }) {
  const roots = useProfiles().data?.outputRoots ?? [];
  return (
    <div className={styles.fields}>
      <span className={styles.label}>Output folder</span>
      <div className={styles.template}>
        <TextInput
          size="xs"
          aria-label="Output folder"
          classNames={{ input: 'mono' }}
          spellCheck={false}
          maxLength={500}
          placeholder={roots[0]}
          value={folder ?? ''}
          error={folder === null ? undefined : faultOfFolder(folder)}
          onChange={(e) => onChange(e.currentTarget.value === '' ? null : e.currentTarget.value)}
        />
        <div className="dim">
          Below <span className="mono">{roots[0]}</span>
          {roots.length > 1 && (
            <>
              , or as a whole path below <span className="mono">{roots.slice(1).join(', ')}</span>
            </>
          )}
        </div>
      </div>
    </div>
  );
}

function faultOf(profile: Profile): string | undefined {
  if (!profile.name.trim()) return 'The profile needs a name.';
  const template = profile.nameTemplate === null ? undefined : faultOfTemplate(profile.nameTemplate);
  return template ?? profileSettingsSchema.safeParse(profile).error?.issues[0]?.message;
}
