// Undo and redo of a project, said where something came of it.
import { useSession } from '../session/projectSession.ts';
import { say } from '../ui/notify.ts';

export type Way = 'undo' | 'redo';

export function useTurn(projectId: string): (way: Way) => Promise<void> {
  const session = useSession(projectId);
  return async (way) => {
    const label = await session.turn(way);
    if (label !== undefined) say(`${way === 'undo' ? 'Undone' : 'Redone'}: ${label}`);
  };
}
