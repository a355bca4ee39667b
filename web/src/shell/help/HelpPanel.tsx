// What keys do here, and what words mean: opened by ?, from anywhere.
import { Drawer, Tabs } from '@mantine/core';
import { useEffect } from 'react';
import { useLocation } from 'react-router';
import { typing } from '../../ui/typing.ts';
import styles from './HelpPanel.module.css';
import { keysAt } from './placeKeys.ts';
import { WORDS } from './words.ts';

interface Props {
  isOpen: boolean;
  onOpen: (isOpen: boolean) => void;
}
export function HelpPanel({ isOpen, onOpen }: Props) {
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.key !== '?' || typing(e.target)) return;
      e.preventDefault();
      onOpen(!isOpen);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [isOpen, onOpen]);
  return (
    <>
      <button
        type="button"
        className={`tool ${styles.open}`}
        aria-label="Help"
        title="Keys and words: ?"
        onClick={() => onOpen(true)}
      >
        ?
      </button>
      <Drawer opened={isOpen} onClose={() => onOpen(false)} position="right" size={380} title="Keys and words">
        <Tabs defaultValue="keys" keepMounted={false}>
          <Tabs.List>
            <Tabs.Tab value="keys">Keys</Tabs.Tab>
            <Tabs.Tab value="words">Words</Tabs.Tab>
          </Tabs.List>
          <Tabs.Panel value="keys">
            <Keys />
          </Tabs.Panel>
          <Tabs.Panel value="words">
            <dl className={styles.words}>
              {WORDS.map(([word, is]) => (
                <div key={word}>
                  <dt>{word}</dt>
                  <dd className="dim">{is}</dd>
                </div>
              ))}
            </dl>
          </Tabs.Panel>
        </Tabs>
      </Drawer>
    </>
  );
}

function Keys() {
  const { pathname } = useLocation();
  return keysAt(pathname).map(({ name, lines }) => (
    <section key={name} className={styles.group} aria-label={name}>
      <h4>{name}</h4>
      <dl className={styles.keys}>
        {lines.map(([keys, does]) => (
          <div key={keys}>
            <dt>
              <kbd>{keys}</kbd>
            </dt>
            <dd>{does}</dd>
          </div>
        ))}
      </dl>
    </section>
  ));
}
