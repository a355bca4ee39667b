// What the browser's own tools and the benches see of the page: when something was drawn, and how long it took. Nothing
// is kept: observers are told, and a page that is open for a week holds no list of it.

export function drawn(name: string): void {
  performance.mark(name);
  performance.clearMarks(name);
}
/** @param beganMs as performance.now() tells it */
export function took(name: string, beganMs: number): number {
  const duration = performance.now() - beganMs;
  performance.measure(name, { start: beganMs, duration });
  performance.clearMeasures(name);
  return duration;
}
