// The template of file names: typed, or put together from its tokens, with what it gives for a cell.
import { TextInput } from '@mantine/core';
import type { Project } from '@variscen/contract';
import {
  NAME_TOKENS,
  type Profile,
  faultOfPath,
  faultOfTemplate,
  inFolder,
  linearFiles,
  nameValuesOf,
  pathOfFile,
  renderName,
} from '@variscen/core/plan';
import { useRef } from 'react';
import styles from './Profiles.module.css';

interface Props {
  readonly project: Project;
  readonly profile: Pick<Profile, 'name' | 'sizeFactor' | 'widthPx' | 'files' | 'aovs' | 'outputFolder'>;
  readonly value: string;
  readonly onChange: (template: string) => void;
}

export function NameTemplate({ project, profile, value, onChange }: Props) {
  const field = useRef<HTMLInputElement>(null);
  const fault = faultOfTemplate(value);
  const put = (token: string) => {
    const at = field.current?.selectionStart ?? value.length;
    const end = field.current?.selectionEnd ?? at;
    const text = `{${token}}`;
    onChange(value.slice(0, at) + text + value.slice(end));
    requestAnimationFrame(() => {
      field.current?.focus();
      field.current?.setSelectionRange(at + text.length, at + text.length);
    });
  };
  return (
    <div className={styles.template}>
      <TextInput
        ref={field}
        size="xs"
        aria-label="Template of file names"
        classNames={{ input: 'mono' }}
        spellCheck={false}
        maxLength={300}
        value={value}
        error={fault}
        onChange={(e) => onChange(e.currentTarget.value)}
      />
      <div className={styles.tokens} role="group" aria-label="Tokens">
        {NAME_TOKENS.map((token) => (
          <button key={token} type="button" className={`mono ${styles.token}`} onClick={() => put(token)}>
            {token}
          </button>
        ))}
      </div>
      {!fault && <Example project={project} profile={profile} template={value} />}
    </div>
  );
}

function Example({ project, profile, template }: Omit<Props, 'value' | 'onChange'> & { template: string }) {
  const [camera] = project.cameras;
  const variant = project.variants.at(-1);
  if (!camera || !variant) return null;
  const options = variant.optionIds.flatMap((id) => project.options.find((o) => o.id === id) ?? []);
  const at = new Date().toISOString();
  const parts = { project: project.name, camera, variant: variant.name, options, profile, version: 1, frame: null, at };
  const path = inFolder(profile.outputFolder, renderName(template, nameValuesOf(parts)));
  const [picture, ...others] = linearFiles(profile).map((file) => pathOfFile(path, file));
  const fault = faultOfPath(path);
  return fault ? (
    <div className="notice">{fault}</div>
  ) : (
    <div className="dim">
      For {camera.name} in {variant.name}:{' '}
      <span className={`mono ${styles.path}`}>{picture ?? pathOfFile(path, { extension: '' })}</span>
      {others[0] !== undefined && (
        <>
          {' '}
          and <span className={`mono ${styles.path}`}>{others[0]}</span>
        </>
      )}
    </div>
  );
}
