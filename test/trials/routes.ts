import { Router } from 'express';

export interface Route {
  readonly method: string;
  /** As the routers have it, such as `/api/documents/:id`. */
  readonly path: string;
}

interface Entry {
  readonly path: string;
  readonly method?: string;
  readonly router?: object;
}

interface Layered {
  use: (...given: unknown[]) => unknown;
  route: (path: string) => { [method: string]: unknown };
}

const methods = ['get', 'post', 'put', 'patch', 'delete', 'all'];

/**
 * Listens to every router while a server is put together. Mounted paths can't be read from a router afterwards, so they
 * are noted as they are given.
 *
 * @returns the routes of the whole server, to be asked for once it stands
 */
export function noteRoutes(): () => Route[] {
  const entries = new Map<object, Entry[]>();
  const roots: object[] = [];
  const prototype: Layered = Router.prototype;
  const { use, route } = prototype;
  const note = (router: object, entry: Entry) => {
    const known = entries.get(router);
    if (known) known.push(entry);
    else {
      entries.set(router, [entry]);
      roots.push(router);
    }
  };
  prototype.use = function (this: object, ...given) {
    const [first, ...rest] = given;
    const paths = typeof first === 'function' ? [''] : [first].flat().map(String);
    const handlers = (typeof first === 'function' ? given : rest).flat();
    for (const handler of handlers)
      if (typeof handler === 'function' && 'stack' in handler)
        for (const path of paths) note(this, { path, router: handler });
    return use.apply(this, given);
  };
  prototype.route = function (this: object, path) {
    const made = route.call(this, path);
    for (const method of methods) {
      const plain = made[method];
      if (typeof plain !== 'function') continue;
      made[method] = (...handlers: unknown[]) => {
        note(this, { path, method: method.toUpperCase() });
        return plain.apply(made, handlers);
      };
    }
    return made;
  };
  return () => {
    Object.assign(prototype, { use, route });
    const mounted = new Set([...entries.values()].flat().map(({ router }) => router));
    const found: Route[] = [];
    const walk = (router: object, before: string) => {
      for (const { path, method, router: below } of entries.get(router) ?? []) {
        const whole = `${before}${path === '/' ? '' : path}`;
        if (below) walk(below, whole);
        else if (method) found.push({ method, path: whole || '/' });
      }
    };
    for (const router of roots) if (!mounted.has(router)) walk(router, '');
    return found;
  };
}
