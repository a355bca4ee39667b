// Where it is not known how long something takes to render: measuring each view tells about.
import { useQueryClient } from '@tanstack/react-query';
import type { Plan } from '@variscen/contract';
import { useEffect, useRef, useState } from 'react';
import { download } from '../../api/client.ts';
import { unsureCells } from '../../model/planFigures.ts';
import { plural } from '../../ui/format.ts';
import { sayError } from '../../ui/notify.ts';

export function MeasureFirst({ projectId, plan }: { projectId: string; plan: Plan }) {
  const client = useQueryClient();
  const running = useRef<AbortController | null>(null);
  const [at, setAt] = useState<{ readonly done: number; readonly of: number } | null>(null);
  useEffect(() => () => running.current?.abort(), []);
  // what stays unknown is not asked for twice
  const [measured, setMeasured] = useState<ReadonlySet<string>>(new Set());
  const cells = unsureCells(plan).filter((c) => !measured.has(keyOf(c)));
  const measure = async () => {
    const stop = new AbortController();
    running.current = stop;
    try {
      for (const [done, cell] of cells.entries()) {
        setAt({ done, of: cells.length });
        // megabytes of what each object gave, which the Cull place asks for
        await download('measureEvidence', { params: { projectId }, body: cell, signal: stop.signal });
        setMeasured((before) => new Set([...before, keyOf(cell)]));
      }
      await client.invalidateQueries({ queryKey: ['plan'] });
    } catch (e) {
      if (!stop.signal.aborted) sayError(e);
    } finally {
      setAt(null);
    }
  };
  if (at)
    return (
      <div role="status">
        Measuring view {at.done + 1} of {at.of} …{' '}
        <button type="button" className="quiet" onClick={() => running.current?.abort()}>
          Stop
        </button>
      </div>
    );
  if (!cells.length) return null;
  return (
    <button
      type="button"
      className="quiet"
      title="A small picture of each is traced, of some seconds. It also tells what each camera needs of the scene."
      onClick={() => void measure()}
    >
      Measure {plural(cells.length, 'view')} to know how long
    </button>
  );
}

const keyOf = ({ cameraId, variantId }: { cameraId: string; variantId: string }): string => `${cameraId} ${variantId}`;
