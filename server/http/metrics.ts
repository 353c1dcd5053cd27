import { isIP } from 'node:net';
import type { Express, NextFunction, Request, RequestHandler, Response } from 'express';
import ipaddr from 'ipaddr.js';
import { Counter, collectDefaultMetrics, Gauge, Histogram, Registry } from 'prom-client';
import { Refusal } from '../refusal.ts';

const seconds = [0.001, 0.0025, 0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10];

declare module 'express-serve-static-core' {
  interface Request {
    /** The route that it came to last, and the address below which that stands. */
    noted?: unknown;
    notedBelow?: string;
  }
}

/** What is asked for when somebody wants to know; each a number at that moment. */
export interface Measured {
  /** How many jobs stand in each status. */
  jobs(): Promise<ReadonlyMap<string, number>>;
  /** How many contacts there are. */
  contacts(): Promise<number>;
  /** The position in the log of changes up to which this server knows everything. */
  position(): number;
  /** The release that is live; 0 for none. */
  release(): number;
}

/** Figures of one server for what watches over it, in the text format of Prometheus (version 0.0.4). */
export class Metrics {
  private readonly registry = new Registry();
  private readonly duration = new Histogram({
    name: 'apple_porch_request_duration_seconds',
    help: 'How long requests took, by method, route and status',
    labelNames: ['method', 'route', 'status'],
    buckets: seconds,
    registers: [this.registry],
  });
  private readonly made = new Histogram({
    name: 'apple_porch_page_seconds',
    help: 'How long it took to decide and render a page of the site',
    buckets: [0.0001, 0.00025, 0.0005, ...seconds],
    registers: [this.registry],
  });
  private readonly failures = new Counter({
    name: 'apple_porch_failures_total',
    help: 'Requests that were answered with a failure of the server',
    registers: [this.registry],
  });

  constructor(measured: Measured) {
    // The delay of the event loop, memory and processor time are among them.
    collectDefaultMetrics({ register: this.registry, eventLoopMonitoringPrecision: 100 });
    const gauge = (name: string, help: string, of: () => number | Promise<number>) =>
      new Gauge({
        name,
        help,
        registers: [this.registry],
        async collect() {
          this.set(await of());
        },
      });
    gauge('apple_porch_contacts', 'How many contacts there are', measured.contacts);
    gauge('apple_porch_log_position', 'Up to which change this server knows everything', measured.position);
    gauge('apple_porch_release', 'The release that is live', measured.release);
    const jobs = new Gauge({
      name: 'apple_porch_jobs',
      help: 'How many jobs stand in each status',
      labelNames: ['status'],
      registers: [this.registry],
      async collect() {
        this.reset();
        for (const [status, count] of await measured.jobs()) this.set({ status }, count);
      },
    });
    jobs.set({ status: 'waiting' }, 0);
  }

  /** Notes every request of an application when it is answered. */
  watch(app: Express): RequestHandler {
    noteRoutes(app);
    return (request, response, next) => {
      const started = performance.now();
      response.on('close', () => {
        const { statusCode: status } = response;
        this.duration.observe(
          { method: request.method, route: patternOf(request), status },
          (performance.now() - started) / 1000,
        );
        if (status >= 500) this.failures.inc();
      });
      next();
    };
  }

  /** Makes a page, and notes how long that took. */
  timed<Page>(make: () => Page): Page {
    const started = performance.now();
    try {
      return make();
    } finally {
      this.made.observe((performance.now() - started) / 1000);
    }
  }

  /** Answers with all figures; to nobody but this machine, and whoever knows the token. */
  answer(token: string | undefined): RequestHandler {
    return async (request: Request, response: Response, next: NextFunction) => {
      if (!mayAsk(request, token)) return next(new Refusal(404, 'There is nothing at this address.'));
      response.set('Cache-Control', 'no-store').type(this.registry.contentType);
      response.send(await this.registry.metrics());
    };
  }
}

/**
 * Has each request keep what its route stood below when it came to it: an error is answered outside of that, where it is
 * no longer known.
 */
function noteRoutes(app: Express): void {
  Object.defineProperty(app.request, 'route', {
    configurable: true,
    get(this: Request) {
      return this.noted;
    },
    set(this: Request, route: unknown) {
      this.noted = route;
      this.notedBelow = this.baseUrl;
    },
  });
}

/** The pattern of a request's address, so that there are only as many as routes. */
function patternOf({ noted, notedBelow, baseUrl }: Request): string {
  const { path } = Object(noted);
  return typeof path === 'string' ? `${notedBelow}${path}` : baseUrl || 'other';
}

function mayAsk(request: Request, token: string | undefined): boolean {
  if (token !== undefined && request.get('authorization') === `Bearer ${token}`) return true;
  const peer = request.socket.remoteAddress ?? '';
  // What a proxy on this machine passes on comes from elsewhere.
  return (
    isIP(peer) !== 0 &&
    ipaddr.process(peer).range() === 'loopback' &&
    request.get('x-forwarded-for') === undefined &&
    request.get('forwarded') === undefined
  );
}
