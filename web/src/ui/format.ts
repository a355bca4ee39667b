// Amounts in people's units.
export function bytes(n: number): string {
  const units = ['B', 'kB', 'MB', 'GB', 'TB'];
  let i = 0;
  let v = n;
  while (v >= 999.5 && i < units.length - 1) {
    v /= 1000;
    i++;
  }
  return `${i === 0 || v >= 100 ? Math.round(v) : Number(v.toPrecision(2))} ${units[i]}`;
}
export function duration(s: number): string {
  if (s < 10) return `${Number(s.toPrecision(2))} s`;
  const t = Math.round(s);
  if (t < 60) return `${t} s`;
  if (t < 3600) return `${Math.floor(t / 60)} min ${t % 60} s`;
  return `${Math.floor(t / 3600)} h ${Math.floor((t % 3600) / 60)} min`;
}
export const count = (n: number): string => n.toLocaleString('en');
export const plural = (n: number, one: string, many = `${one}s`): string => `${count(n)} ${n === 1 ? one : many}`;
export const percent = (share: number): string => `${Number((share * 100).toPrecision(3))} %`;
export const version = (n: number): string => `v${String(n).padStart(3, '0')}`;
export function metres(m: number): string {
  if (m < 0.01) return `${Number((m * 1000).toPrecision(2))} mm`;
  return `${m.toFixed(m < 10 ? 2 : 1)} m`;
}
