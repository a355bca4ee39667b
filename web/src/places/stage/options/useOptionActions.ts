// What is done to options on the server. Each answers whether it was done; where it was not, the person was told why.
import type { Option, Project, Tag } from '@variscen/contract';
import type { Facet } from '@variscen/core/looks';
import { call } from '../../../api/client.ts';
import type { ProjectSession } from '../../../session/projectSession.ts';
import { say } from '../../../ui/notify.ts';

interface OptionUpdate {
  readonly name?: string;
  readonly notes?: string;
  readonly tag?: Tag | null;
}
export interface OptionActions {
  make(facet: Facet, name: string): Promise<boolean>;
  update(option: Option, body: OptionUpdate): Promise<boolean>;
  duplicate(option: Option): Promise<boolean>;
  /** @param used by variants, which it is taken out of */
  remove(option: Option, used: boolean): Promise<boolean>;
}

export function useOptionActions(
  project: Project,
  session: ProjectSession,
  destinationId: string,
  onDestination: (id: string) => void,
): OptionActions {
  const params = { projectId: project.id };
  const done = async <T>(work: () => Promise<T>, then?: (made: T) => void): Promise<boolean> => {
    const made = await session.write(work);
    if (made === undefined) return false;
    await session.readAgain();
    then?.(made);
    return true;
  };
  const goTo = ({ id }: { readonly id: string }) => onDestination(`option:${id}`);
  return {
    make: (facet, name) => done(() => call('createOption', { params, body: { facet, name } }), goTo),
    update: (o, body) => done(() => call('updateOption', { params: { ...params, optionId: o.id }, body })),
    duplicate: (o) => done(() => call('duplicateOption', { params: { ...params, optionId: o.id }, body: {} }), goTo),
    remove: (o, used) => {
      if (destinationId === `option:${o.id}`) onDestination('base');
      const query = used ? { query: { fromVariants: 'yes' } } : {};
      return done(
        () => call('deleteOption', { params: { ...params, optionId: o.id }, ...query }),
        () => say(`Option “${o.name}” is deleted`, 'Ctrl+Z brings it back.'),
      );
    },
  };
}
