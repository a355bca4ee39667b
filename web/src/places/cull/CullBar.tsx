// How much may go: one slider from nothing lost to a share of the picture's light, and what that comes to at once.
import { Menu, Slider, Switch } from '@mantine/core';
import type { Camera, Project } from '@variscen/contract';
import { type CullAsked, percent as shareWords, textureBytesLookedUp } from '@variscen/core/cull';
import type { SceneIndex } from '@variscen/core/looks';
import type { CameraSettings } from '@variscen/core/scene';
import type { MemoryBytes } from '@variscen/engine';
import { useMemo } from 'react';
import { BARS, type CullSums, barPlace, sumsOf, unreachedOf } from '../../model/cullTable.ts';
import { bytes, count, plural } from '../../ui/format.ts';
import styles from './CullPlace.module.css';
import { CullRules } from './CullRules.tsx';
import type { CullState } from './useCull.ts';

const barWords = ({ barShare: bar, simplifies }: CullAsked): string => {
  if (bar === null && simplifies) return 'Nothing goes by what was measured.';
  if (bar === null) return 'Same picture: nothing goes by what was measured.';
  if (bar === 0) return 'What no ray met goes.';
  return `What gives least goes, up to ${shareWords(bar)} of the light.`;
};
const SHORT = ['none', 'unmet', '0.05', '0.1', '0.25', '0.5', '1', '2', '5'];
const MARKS = BARS.map((_, value) => ({ value, label: SHORT[value] }));

interface Props {
  readonly project: Project;
  readonly index: SceneIndex | undefined;
  readonly camera: Camera;
  readonly cull: CullState;
}
export function CullBar({ project, index, camera, cull }: Props) {
  const { asked, measured, rows, culled, tryBar, keepAsked } = cull;
  const lookedUp =
    measured?.known && index
      ? textureBytesLookedUp(index.document, measured.known.evidence, camera.settings as CameraSettings)
      : null;
  const pieces = measured?.known?.evidence.pieces;
  const unreached = useMemo(() => (index ? unreachedOf(index.document, rows, pieces) : null), [index, rows, pieces]);
  const others = project.cameras.filter((c) => c.id !== camera.id);
  return (
    <section className={styles.bar} aria-label="How much may go">
      <div className={styles.slider}>
        <div className={styles.sliderHead}>
          <h4>What may go, in % of the picture’s light</h4>
          {others.length > 0 && (
            <Menu position="bottom-end">
              <Menu.Target>
                <button type="button" className={`quiet ${styles.small}`}>
                  Give to other cameras
                </button>
              </Menu.Target>
              <Menu.Dropdown>
                {others.length > 1 && (
                  <Menu.Item
                    onClick={() =>
                      keepAsked(
                        asked,
                        project.cameras.map((c) => c.id),
                      )
                    }
                  >
                    All {count(others.length + 1)} cameras
                  </Menu.Item>
                )}
                {others.map((c) => (
                  <Menu.Item key={c.id} onClick={() => keepAsked(asked, [c.id])}>
                    {c.name}
                  </Menu.Item>
                ))}
              </Menu.Dropdown>
            </Menu>
          )}
        </div>
        <Slider
          min={0}
          max={BARS.length - 1}
          step={1}
          marks={MARKS}
          value={barPlace(asked.barShare)}
          disabled={!measured?.known}
          label={null}
          thumbLabel="How much of the light may go"
          thumbProps={{ 'aria-valuetext': barWords(asked) }}
          color="var(--ink)"
          size="sm"
          onChange={(at) => tryBar(BARS[at] ?? null)}
          onChangeEnd={(at) => keepAsked({ ...asked, barShare: BARS[at] ?? null })}
        />
        <p className={styles.barWords}>{barWords(asked)}</p>
        <Switch
          size="xs"
          className={styles.simplify}
          label="Simplify what the camera does not see itself"
          checked={asked.simplifies}
          disabled={!measured?.known}
          onChange={(e) => keepAsked({ ...asked, simplifies: e.currentTarget.checked })}
        />
        <CullRules project={project} camera={camera} />
      </div>
      <div className={styles.outcome} role="status">
        <Outcome rows={rows} pieces={cull.pieces} simplifies={asked.simplifies} isSimplifying={cull.isSimplifying} />
        {culled && <Memory kept={culled.bytes} whole={culled.wholeBytes} unreached={unreached} lookedUp={lookedUp} />}
      </div>
    </section>
  );
}

interface OutcomeProps extends Pick<CullState, 'rows' | 'pieces' | 'isSimplifying'> {
  readonly simplifies: boolean;
}
function Outcome({ rows, pieces, simplifies, isSimplifying }: OutcomeProps) {
  if (!rows.length) return <p className="dim">Working it out …</p>;
  const sums = sumsOf(rows, pieces.meshes);
  return (
    <>
      {(sums.leftOut > 0 || !sums.simplified) && <LeftOut sums={sums} />}
      {isSimplifying && <p className="dim">Simplifying meshes …</p>}
      {simplifies && !isSimplifying && !sums.simplified && (
        <p className="dim">
          Nothing is simplified: what the camera does not see itself has few triangles, or shares its meshes with what
          it sees.
        </p>
      )}
      {sums.simplified > 0 && (
        <p>
          <b>{plural(sums.simplified, 'object')}</b> simplified, from {count(sums.wholeTriangles)} to{' '}
          {plural(sums.simplerTriangles, 'triangle')}: their shadow and the light that bounces off them stay. What that
          changes is measured by Prove it.
        </p>
      )}
    </>
  );
}

function LeftOut({ sums }: { sums: CullSums }) {
  if (!sums.leftOut && !sums.piecesLeftOut)
    return (
      <p>
        Nothing of {plural(sums.objects, 'object')} is left out. The picture is the same to the bit; of meshes and
        textures only what light reaches is loaded.
      </p>
    );
  return (
    <p>
      <b>{plural(sums.leftOut, 'object')}</b> of {count(sums.objects)} left out, {count(sums.leftOutTriangles)} of{' '}
      {plural(sums.triangles, 'triangle')}.{' '}
      {sums.piecesLeftOut > 0 &&
        `Of ${plural(sums.inPart, 'other')} ${count(sums.piecesLeftOut)} of ${plural(sums.pieces, 'piece')} go, which the camera does not see itself. `}
      {sums.cost === null
        ? 'What some of them gave to the picture was not measured.'
        : `By what was measured all that brought or kept away ${shareWords(sums.cost)} of its light; what leaving them out costs at most is said by each render.`}
    </p>
  );
}

const meshesOf = (b: MemoryBytes): number => b.vertices + b.acceleration;

interface MemoryProps {
  readonly kept: MemoryBytes;
  readonly whole: MemoryBytes;
  /** Of meshes that are loaded, by no ray of the measurement; null: not measured. */
  readonly unreached: number | null;
  /** Of textures, at most; null: not measured. */
  readonly lookedUp: number | null;
}
function Memory({ kept, whole, unreached, lookedUp }: MemoryProps) {
  const meshes = meshesOf(kept);
  const reached = unreached === null ? meshes : Math.max(0, meshes - unreached);
  const looked = Math.min(lookedUp ?? Infinity, kept.textures);
  const most = Math.max(1, meshesOf(whole), whole.textures);
  return (
    <div className={styles.memory}>
      <MemoryLine name="Meshes" used={reached} kept={meshes} whole={meshesOf(whole)} most={most} />
      <MemoryLine name="Textures" used={looked} kept={kept.textures} whole={whole.textures} most={most} />
      {(reached < meshes || looked < kept.textures) && (
        <p className="dim">
          While it was measured rays reached <span className="mono">{bytes(reached)}</span> of the meshes, and of
          textures they look up <span className="mono">{bytes(looked)}</span> at most. No more is loaded than rays come
          to.
        </p>
      )}
    </div>
  );
}

interface MemoryLineProps {
  readonly name: string;
  /** Bytes that rays come to, that are kept, of all. */
  readonly used: number;
  readonly kept: number;
  readonly whole: number;
  /** As wide as the line is. */
  readonly most: number;
}
/** Drawn over one another, the last on top. */
const LENGTHS = ['whole', 'kept', 'used'] as const;
function MemoryLine({ name, used, kept, whole, most }: MemoryLineProps) {
  const lengths = { whole, kept, used } as const;
  return (
    <div className={styles.memoryLine}>
      <span className="dim">{name}</span>
      <div className={styles.memoryBar} aria-hidden>
        {LENGTHS.map((of) => (
          <i key={of} data-of={of} style={{ width: `${(Math.min(lengths[of], whole) / most) * 100}%` }} />
        ))}
      </div>
      <span className="mono">
        {bytes(kept)} <span className="dim">of {bytes(whole)}</span>
      </span>
    </div>
  );
}
