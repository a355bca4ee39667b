import { ROUTES, type RouteName } from '@variscen/contract';

/** Path of a route, relative to the server that the page came from. */
export const pathOf = (name: RouteName, params: Readonly<Record<string, string>> = {}): string =>
  ROUTES[name].path.replace(/\{(\w+)\}/g, (_, k: string) => encodeURIComponent(params[k] ?? ''));
