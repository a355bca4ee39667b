// What can be done with an option.
import { Menu } from '@mantine/core';
import { type Option, TAGS, type Tag } from '@variscen/contract';
import { plural } from '../../../ui/format.ts';
import type { OptionQuestion } from './OptionDialogs.tsx';
import styles from './Options.module.css';

interface Props {
  option: Option;
  /** Whether its facet has others. */
  hasOthers: boolean;
  onAsk: (question: OptionQuestion) => void;
  onDuplicate: () => void;
  onCopy: () => void;
  onTag: (tag: Tag | null) => void;
  /** Absent: it adds no lights. */
  onLights?: (() => void) | undefined;
}
export function OptionMenu({ option, hasOthers, onAsk, onDuplicate, onCopy, onTag, onLights }: Props) {
  return (
    <>
      <Menu.Item onClick={() => onAsk('rename')}>
        Rename… <kbd>F2</kbd>
      </Menu.Item>
      <Menu.Item onClick={onDuplicate}>Duplicate</Menu.Item>
      <Menu.Item onClick={() => onAsk('notes')}>Notes…</Menu.Item>
      <Menu.Item disabled={!hasOthers} onClick={() => onAsk('compare')}>
        Compare with…
      </Menu.Item>
      <Menu.Item disabled={!option.changes.length} onClick={onCopy}>
        Copy its {plural(option.changes.length, 'value')}
      </Menu.Item>
      {onLights && <Menu.Item onClick={onLights}>Select its lights</Menu.Item>}
      <Menu.Item onClick={() => onAsk('save')}>Save for other projects…</Menu.Item>
      <Menu.Label>Tag</Menu.Label>
      <div className={styles.row}>
        {TAGS.map((t) => (
          <button
            type="button"
            key={t}
            aria-label={`Tag ${t}`}
            aria-pressed={option.tag === t}
            title={t}
            onClick={() => onTag(option.tag === t ? null : t)}
            className={styles.button}
            data-tag={t}
          />
        ))}
      </div>
      <Menu.Divider />
      <Menu.Item onClick={() => onAsk('delete')}>Delete…</Menu.Item>
    </>
  );
}
