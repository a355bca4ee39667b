// A measured figure.
export interface Figure {
  readonly suite: string;
  readonly name: string;
  readonly value: number;
  readonly unit: string;
  readonly ratio?: number;
  readonly of?: string;
}

export type Emit = (f: Omit<Figure, 'suite'>) => void;
