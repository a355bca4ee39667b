// What rendering the selected cells would take, asked for anew whenever it may be another.
import { keepPreviousData, useQuery, useQueryClient } from '@tanstack/react-query';
import type { BoardCell, Plan, PlanRequest, Project } from '@variscen/contract';
import { useRef, useState } from 'react';
import { ApiError, call } from '../../api/client.ts';
import { keys } from '../../api/queries.ts';
import { plural } from '../../ui/format.ts';
import { say, sayError } from '../../ui/notify.ts';

export interface PlanState {
  /** Undefined where nothing is selected, or it is being worked out. */
  readonly plan: Plan | undefined;
  readonly error: Error | null;
  /** A newer one is on its way, or what it says is being queued. */
  readonly isBusy: boolean;
  /** Queues what the plan says. Answers whether it was queued; where it was not, the person was told why. */
  render(): Promise<boolean>;
}

/**
 * @param wanted of the cells; undefined: it is not known yet
 * @param separately each lighting is traced by itself
 */
export function usePlan(
  project: Project,
  cells: readonly BoardCell[],
  wanted: PlanRequest['cells'] | undefined,
  profileId: string,
  separately: boolean,
): PlanState {
  const client = useQueryClient();
  const [isQueueing, setQueueing] = useState(false);
  const order = useRef<{ readonly planHash: string; readonly orderId: string | undefined } | undefined>(undefined);
  const refs = wanted ?? [];
  const states = cells.map((c) => `${c.status}${c.render?.version ?? 0}`).join();
  const params = { projectId: project.id };
  const body = { cells: refs, profileId, separately };
  const query = useQuery({
    queryKey: ['plan', project, profileId, refs, states, separately],
    enabled: refs.length > 0,
    placeholderData: keepPreviousData,
    staleTime: 0,
    retry: false,
    queryFn: ({ signal }) => call('plan', { params, body, signal }),
  });
  /** The same order until it is queued: said again after a lost answer, it makes no second batch. */
  const orderOf = ({ hash }: Plan): { planHash: string; orderId?: string } => {
    // without a secure context there are no ids, and orders are not told apart
    if (order.current?.planHash !== hash) order.current = { planHash: hash, orderId: globalThis.crypto.randomUUID?.() };
    const { orderId } = order.current;
    return { planHash: hash, ...(orderId !== undefined && { orderId }) };
  };
  const render = async () => {
    setQueueing(true);
    try {
      const b = await call('createBatch', { params, body: { ...body, ...(query.data && orderOf(query.data)) } });
      order.current = undefined;
      say(`${plural(b.cells, 'picture')} queued as ${plural(b.traces, 'trace')}`);
      await client.invalidateQueries({ queryKey: keys.board(project.id) });
      return true;
    } catch (e) {
      sayError(e);
      if (e instanceof ApiError && e.code === 'PLAN_CHANGED') await client.invalidateQueries({ queryKey: ['plan'] });
      return false;
    } finally {
      setQueueing(false);
    }
  };
  return {
    plan: refs.length ? query.data : undefined,
    error: refs.length ? query.error : null,
    isBusy: isQueueing || query.isFetching,
    render,
  };
}
