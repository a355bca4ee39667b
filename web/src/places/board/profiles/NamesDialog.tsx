// The template of the project's file names.
import { Modal } from '@mantine/core';
import type { Project } from '@variscen/contract';
import { type Profile, faultOfTemplate } from '@variscen/core/plan';
import { useState } from 'react';
import { call } from '../../../api/client.ts';
import { useSession } from '../../../session/projectSession.ts';
import { Buttons } from '../../../ui/Buttons.tsx';
import { NameTemplate } from './NameTemplate.tsx';

interface Props {
  readonly project: Project;
  readonly profile: Profile;
  readonly onClose: () => void;
}

export function NamesDialog({ project, profile, onClose }: Props) {
  const session = useSession(project.id);
  const [template, setTemplate] = useState(project.nameTemplate);
  const keep = async () => {
    const params = { projectId: project.id };
    const body = { nameTemplate: template };
    if (await session.writeProject(() => call('updateProject', { params, body }))) onClose();
  };
  return (
    <Modal opened onClose={onClose} title="Names of files" size={640}>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          void keep();
        }}
      >
        <p className="dim">Within the output folder; a slash begins a folder. What lies there is never overwritten.</p>
        {profile.nameTemplate !== null && (
          <div className="notice">{profile.name} names its files by a template of its own.</div>
        )}
        <NameTemplate project={project} profile={profile} value={template} onChange={setTemplate} />
        <Buttons
          label="Keep the template"
          disabled={faultOfTemplate(template) !== undefined || template === project.nameTemplate}
          onCancel={onClose}
        />
      </form>
    </Modal>
  );
}
