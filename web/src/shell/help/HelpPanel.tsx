// What keys do here, and what words mean: opened by ?, from anywhere.
import { Drawer, Tabs } from '@mantine/core';
import { useEffect } from 'react';
import { useLocation } from 'react-router';
import { typing } from '../../ui/typing.ts';
import styles from './HelpPanel.module.css';
import { useDemo } from '../tour/Tour.tsx';
import { useTourState } from '../tour/tourState.ts';
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
        <TakeTour onTaken={() => onOpen(false)} />
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

function TakeTour({ onTaken }: { onTaken: () => void }) {
  const demo = useDemo();
  const start = useTourState((s) => s.start);
  if (demo === undefined) return null;
  const take = () => {
    onTaken();
    start();
  };
  return (
    <button type="button" className={`quiet ${styles.tour}`} onClick={take}>
      Take the tour of the demo
    </button>
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
