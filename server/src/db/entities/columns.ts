// Columns of tables, and how SQL calls them.
export const id = { type: 'uuid', primary: true } as const;
export const uuid = (name: string) => ({ type: 'uuid', name }) as const;
export const text = (name: string) => ({ type: 'text', name }) as const;
export const json = (name: string) => ({ type: 'jsonb', name }) as const;
export const int = (name: string) => ({ type: 'int', name }) as const;
export const time = (name: string) => ({ type: 'timestamptz', name }) as const;
export const nullable = <T extends object>(c: T) => ({ ...c, nullable: true }) as const;
