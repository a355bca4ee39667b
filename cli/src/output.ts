// What a command says: tables and sentences for people, one JSON document for programs.
export interface Streams {
  readonly out: (text: string) => void;
  readonly err: (text: string) => void;
  /** Whether progress can be drawn. */
  readonly isTerminal: boolean;
}

export class Output {
  constructor(
    readonly streams: Streams,
    readonly isJson: boolean,
  ) {}

  /** @param value what programs get @param text what people get */
  say(value: unknown, text: string): void {
    this.streams.out(this.isJson ? `${JSON.stringify(value, null, 2)}\n` : `${text}\n`);
  }
  /** Beside the answer; programs do not get it. */
  note(text: string): void {
    if (!this.isJson) this.streams.err(`${text}\n`);
  }
}

/** Columns by the widest of each; numbers to the right. */
export function table(head: readonly string[], rows: readonly (readonly (string | number)[])[]): string {
  const all = [head, ...rows.map((r) => r.map(String))];
  const widths = head.map((_, k) => Math.max(...all.map((r) => r[k]!.length)));
  const isNumeric = head.map((_, k) => rows.length > 0 && rows.every((r) => typeof r[k] === 'number'));
  const line = (r: readonly string[]) =>
    r
      .map((text, k) => (isNumeric[k] ? text.padStart(widths[k]!) : text.padEnd(widths[k]!)))
      .join('  ')
      .trimEnd();
  return all.map(line).join('\n');
}

export function duration(s: number): string {
  const t = Math.round(s);
  if (t < 60) return `${t} s`;
  if (t < 3600) return `${Math.floor(t / 60)} min ${t % 60} s`;
  return `${Math.floor(t / 3600)} h ${Math.floor((t % 3600) / 60)} min`;
}
export const megabytes = (bytes: number): string => `${Math.ceil(bytes / 1e6)} MB`;
export const plural = (n: number, one: string, many = `${one}s`): string => `${n} ${n === 1 ? one : many}`;
