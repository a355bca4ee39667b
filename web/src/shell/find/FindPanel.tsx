// Anything by its name, from anywhere: Ctrl+K.
import { Spotlight, createSpotlight } from '@mantine/spotlight';
import { IconSearch } from '@tabler/icons-react';
import { useMemo, useState } from 'react';
import { useLocation, useNavigate } from 'react-router';
import { useProject, useScene } from '../../api/queries.ts';
import { useTurn } from '../useTurn.ts';
import styles from './FindPanel.module.css';
import { type Doing, type Findable, findableAnywhere, findableIn, foundAmong } from './findable.ts';
import { actionsOn } from './pageActions.ts';

const MOST_SHOWN = 40;
const [store, panel] = createSpotlight();

interface Props {
  /** The project that is open, or was last. */
  projectId: string | undefined;
  onHelp: () => void;
}
export function FindPanel({ projectId, onHelp }: Props) {
  const [question, setQuestion] = useState('');
  const [isOpen, setOpen] = useState(false);
  const list = useFindable(projectId, isOpen);
  const found = useMemo(() => (isOpen ? foundAmong(list, question, MOST_SHOWN) : []), [isOpen, list, question]);
  const go = useGoing(projectId, onHelp);
  return (
    <>
      <button type="button" className="tool" aria-label="Find" title="Find anything: Ctrl+K" onClick={panel.open}>
        <IconSearch size={17} stroke={1.5} />
      </button>
      <Spotlight.Root
        store={store}
        query={question}
        onQueryChange={setQuestion}
        onSpotlightOpen={() => setOpen(true)}
        onSpotlightClose={() => setOpen(false)}
        shortcut="mod + K"
        tagsToIgnore={[]}
        scrollable
        maxHeight={460}
        overlayProps={{ blur: 0, backgroundOpacity: 0.45 }}
        classNames={{ action: styles.action!, search: styles.search!, actionsList: styles.list! }}
        transitionProps={{ duration: 0 }}
      >
        <Spotlight.Search
          aria-label="Find"
          placeholder="A camera, variant, option, object, material, place, or what a button says"
          leftSection={<IconSearch size={16} stroke={1.5} />}
        />
        <Spotlight.ActionsList>
          {found.map((f) => (
            <Spotlight.Action key={f.id} onClick={() => go(f)}>
              <span className={styles.line}>
                <span className="ellipsis" title={f.label}>
                  {f.label}
                </span>
                <span className="dim">{f.kind}</span>
              </span>
            </Spotlight.Action>
          ))}
          {!found.length && <Spotlight.Empty>Nothing has that in its name.</Spotlight.Empty>}
        </Spotlight.ActionsList>
      </Spotlight.Root>
    </>
  );
}

function useFindable(projectId: string | undefined, isOpen: boolean): readonly Findable[] {
  const { data: project } = useProject((isOpen && projectId) || '');
  const { data: scene } = useScene(isOpen ? project?.revision?.sceneHash : undefined);
  return useMemo(
    () => [
      ...(isOpen ? actionsOn(document) : []),
      ...(project && isOpen ? findableIn(project, scene) : []),
      ...findableAnywhere(),
    ],
    [project, scene, isOpen],
  );
}

function useGoing(projectId: string | undefined, onHelp: () => void): (f: Findable) => void {
  const navigate = useNavigate();
  const { pathname, search } = useLocation();
  const turn = useTurn(projectId ?? '');
  const does: Readonly<Record<Doing, () => void>> = {
    undo: () => void turn('undo'),
    redo: () => void turn('redo'),
    help: onHelp,
  };
  return ({ leads }) => {
    // when the panel has closed and given the focus back
    if (leads.to === 'press') setTimeout(() => leads.element.click());
    else if (leads.to === 'do') does[leads.what]();
    else if (leads.to === 'place') void navigate(leads.path);
    else {
      const stage = `/projects/${projectId ?? ''}/stage`;
      // what the Stage shows stays, but for what is asked
      const asks = new URLSearchParams(pathname === stage ? search : '');
      for (const [key, value] of Object.entries(leads.asks)) asks.set(key, value);
      void navigate(`${stage}?${asks}`);
    }
  };
}
