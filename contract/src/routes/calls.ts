// How a route is called by its name: what it takes, what it answers, where it is.
import type * as z from 'zod';
import { ROUTES, type RouteName } from './index.ts';

type Routes = typeof ROUTES;
type Out<R> = R extends { response: infer S extends z.ZodType } ? z.infer<S> : never;
type In<R> = R extends { body: infer S extends z.ZodType } ? { body: z.input<S> } : object;
type Params<R> = R extends { params: infer S extends z.ZodType }
  ? { params: { [K in keyof z.infer<S>]: string } }
  : object;

export type RouteAnswer<N extends RouteName> = Out<Routes[N]>;
export type RouteInput<N extends RouteName> = In<Routes[N]> & Params<Routes[N]> & { query?: Record<string, string> };

/** Path of a route, relative to the server. */
export const pathOf = (name: RouteName, params: Readonly<Record<string, string>> = {}): string =>
  ROUTES[name].path.replace(/\{(\w+)\}/g, (_, k: string) => encodeURIComponent(params[k] ?? ''));
