// A place whose code is read when it is needed, or ahead of that.
import { type ComponentType, useEffect, useState } from 'react';

type Place<P> = ComponentType<P>;
export interface LaterPlace<P> {
  readonly Place: Place<P>;
  /** Reads its code. Fails where that cannot be had now; it can be asked for again. */
  readonly load: () => Promise<void>;
}

/**
 * What React has for this shows what stands for it for 0.3 seconds at least, also where the code is there.
 * @param Waiting stands for it meanwhile
 */
export function laterPlace<P extends object>(read: () => Promise<Place<P>>, Waiting: ComponentType): LaterPlace<P> {
  let known: Place<P> | undefined;
  const load = async () => {
    known ??= await read();
  };
  function Place(props: P) {
    const [, setKnown] = useState<Place<P> | undefined>(() => known);
    const [fault, setFault] = useState<unknown>();
    useEffect(() => {
      if (known) return;
      load().then(
        () => setKnown(() => known),
        (e: unknown) => setFault(e ?? new Error('The page could not be read.')),
      );
    }, []);
    if (fault) throw fault as Error;
    const Known = known;
    return Known ? <Known {...props} /> : <Waiting />;
  }
  return { Place, load };
}
