// Settings of the processes, read from the environment once.
import { isAbsolute, join } from 'node:path';
import { homedir, hostname, networkInterfaces, totalmem } from 'node:os';

export interface Config {
  readonly home: string;
  readonly port: number;
  readonly databaseUrl: string;
  /** Shared by the server and the nodes that the supervisor starts. */
  readonly nodeToken: string;
  readonly webFolder: string | null;
  /** The address that it listens at; absent: this machine alone. */
  readonly listen?: string;
  /** What people show where it is opened from other machines; absent: nothing. */
  readonly userToken?: string;
  readonly memoryBudgetBytes: number;
  /** Of processes that do heavy work, 0 to 19; absent: 19, so that they never hold up what answers people. */
  readonly taskNiceness?: number;
  /** Names beside this machine's own that Variscen may be opened by. */
  readonly hosts?: readonly string[];
  /** Nodes of another engine are refused; null: none is. Absent: that of this checkout. */
  readonly engineBuild?: string | null;
  /** Absolute paths of folders beside the own below which profiles may put pictures. */
  readonly outputRoots?: readonly string[];
  /** Absent: the machine's clock. */
  readonly now?: () => Date;
  /** Kept free on the disks of the data and the pictures. */
  readonly reserveBytes?: number;
}
export const VERSION = '0.1.0';
export const DEFAULT_PORT = 4460;
/** For root /var/lib/variscen, since the database runs as user postgres, which may not enter /root. */
export const homeFolder = (): string =>
  process.env['VARISCEN_HOME'] || (process.getuid?.() === 0 ? '/var/lib/variscen' : join(homedir(), '.variscen'));
export const assetsFolder = (home: string): string => join(home, 'assets');
/** In which the id of the demo's project stands. */
export const demoFile = (home: string): string => join(home, 'demo-made');
export const outputFolder = (home: string): string => join(home, 'output');

/**
 * What one trace may take, with what its node keeps for later ones: VARISCEN_MEMORY_MB, or three quarters of the
 * machine's memory.
 */
export function memoryBudgetBytes(): number {
  const given = process.env['VARISCEN_MEMORY_MB'];
  if (!given) return Math.floor(totalmem() * 0.75);
  const mb = Number(given);
  if (!(Number.isFinite(mb) && mb >= 64 && mb <= 1e7))
    throw new Error(`VARISCEN_MEMORY_MB is “${given}”; it is a number of MiB, from 64 up.`);
  return Math.floor(mb * 2 ** 20);
}

const RESERVE_MB = 500;
/** VARISCEN_RESERVE_MB, or half a gigabyte. */
function reserveBytes(): number {
  const mb = Number(process.env['VARISCEN_RESERVE_MB'] ?? RESERVE_MB);
  if (!(Number.isFinite(mb) && mb >= 0 && mb <= 1e7))
    throw new Error('VARISCEN_RESERVE_MB is a number of MiB, from 0 up.');
  return mb * 2 ** 20;
}

const namedHosts = (): string[] =>
  (process.env['VARISCEN_HOSTS'] ?? '')
    .split(',')
    .map((h) => h.trim())
    .filter(Boolean);
/** VARISCEN_OUTPUT_ROOTS, with colons between them. */
function outputRoots(): string[] {
  const roots = (process.env['VARISCEN_OUTPUT_ROOTS'] ?? '').split(':').filter(Boolean);
  const relative = roots.find((root) => !isAbsolute(root));
  if (relative !== undefined)
    throw new Error(`The output root “${relative}” is not a whole path. Write it from “/” on.`);
  return roots;
}
const DEFAULT_CACHE_MIB = 20_000;
/** What a machine keeps of scenes' content, and as much again of meshes and textures as engines load them. */
export function cacheBytes(): number {
  const mib = Number(process.env['VARISCEN_CACHE_MB'] ?? DEFAULT_CACHE_MIB);
  if (!(Number.isFinite(mib) && mib >= 0)) throw new Error('VARISCEN_CACHE_MB is a number of MiB, from 0 up.');
  return mib * 2 ** 20;
}
/** Of the node on this machine; looks and proofs load the same meshes and textures. */
export const nodeFolder = (home: string): string => join(home, 'node');
export const isLoopback = (address: string | undefined): boolean =>
  !address || address === '::1' || address === 'localhost' || address.startsWith('127.');
/** By which other machines may call this one: its name, and its addresses as they stand in a URL. */
export const ownAddresses = (): string[] => [
  hostname().toLowerCase(),
  ...Object.values(networkInterfaces()).flatMap((found) =>
    (found ?? []).map((a) => (a.family === 'IPv6' ? `[${a.address}]` : a.address)),
  ),
];

export function readConfig(): Config {
  const need = (name: string): string => {
    const v = process.env[name];
    if (!v) throw new Error(`${name} is not set; the server is started by ./start.`);
    return v;
  };
  return {
    home: homeFolder(),
    port: Number(process.env['VARISCEN_PORT'] ?? DEFAULT_PORT),
    databaseUrl: need('VARISCEN_DATABASE_URL'),
    nodeToken: need('VARISCEN_NODE_TOKEN'),
    webFolder: process.env['VARISCEN_WEB'] ?? null,
    ...(process.env['VARISCEN_LISTEN'] && { listen: process.env['VARISCEN_LISTEN'] }),
    ...(process.env['VARISCEN_USER_TOKEN'] && { userToken: process.env['VARISCEN_USER_TOKEN'] }),
    memoryBudgetBytes: memoryBudgetBytes(),
    reserveBytes: reserveBytes(),
    outputRoots: outputRoots(),
    hosts: [...namedHosts(), ...(isLoopback(process.env['VARISCEN_LISTEN']) ? [] : ownAddresses())],
  };
}
