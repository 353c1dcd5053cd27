import { isIP } from 'node:net';
import type { Express, NextFunction, Request, RequestHandler, Response } from 'express';
import ipaddr from 'ipaddr.js';
import { Counter, collectDefaultMetrics, Gauge, Histogram, Registry } from 'prom-client';
import { Refusal } from '../refusal.ts';

const seconds = [0.001, 0.0025, 0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10];

const requestLabels = ['method', 'route', 'status'] as const;
type RequestLabel = (typeof requestLabels)[number];

declare module 'express-serve-static-core' {
  interface Request {
    /** The route that it came to last. */
    noted?: unknown;
    /** The pattern of that route's address. */
    pattern?: string;
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
    labelNames: requestLabels,
    buckets: seconds,
    registers: [this.registry],
  });
  private readonly byLabels = new Map<string, Histogram.Internal<RequestLabel>>();
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
    collectDefaultMetrics({ register: this.registry });
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
      response.once('close', () => {
        const { statusCode: status } = response;
        const route = request.pattern ?? (request.baseUrl || 'other');
        this.requests(request.method, route, status).observe((performance.now() - started) / 1000);
        if (status >= 500) this.failures.inc();
      });
      next();
    };
  }

  /** What counts requests of one method, route and status; looking one up costs more than counting. */
  private requests(method: string, route: string, status: number): Histogram.Internal<RequestLabel> {
    const key = `${method} ${status} ${route}`;
    const known = this.byLabels.get(key);
    if (known) return known;
    const counting = this.duration.labels({ method, route, status });
    this.byLabels.set(key, counting);
    return counting;
  }

  /** Makes a page, and notes how long that took. */
  timed<Page>(make: () => Page): Page {
    const end = this.made.startTimer();
    try {
      return make();
    } finally {
      end();
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
 * Has each request keep the pattern of its address, so that there are only as many as routes. It is noted when the request
 * comes to its route: an error is answered outside of that, where it is no longer known what the route stood below.
 */
function noteRoutes(app: Express): void {
  Object.defineProperty(app.request, 'route', {
    configurable: true,
    get(this: Request) {
      return this.noted;
    },
    set(this: Request, route: unknown) {
      this.noted = route;
      const { path } = Object(route);
      if (typeof path === 'string') this.pattern = `${this.baseUrl}${path}`;
    },
  });
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
