import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { setTimeout as delay } from 'node:timers/promises';
import express, { type Request, type RequestHandler, type Response } from 'express';
import staticCompressed from 'express-static-gzip';
import { z } from 'zod';
import type { Session } from '../../contract/session.ts';
import { Refusal } from '../refusal.ts';
import type { ChangeLog } from '../store/change-log.ts';
import { nothingHere } from './nothing-here.ts';

/** How long sending the page may wait for the session, in milliseconds. Without it the browser asks for the session itself. */
const patience = 500;

/**
 * The studio as it was built: one page for all its places, which says who is signed in, and its files.
 *
 * @param root the folder that the whole program is in
 */
export function serveStudio(
  app: express.Express,
  root: string,
  session: {
    /** Reads the session that a request belongs to. */
    readonly readSession: RequestHandler;
    readonly tell: (request: Request) => Promise<Session>;
  },
  log: Pick<ChangeLog, 'position'>,
): () => Promise<void> {
  const folder = join(root, 'dist/web');
  const index = join(folder, 'index.html');
  const page = existsSync(index) ? new Page(folder, readFileSync(index, 'utf8')) : undefined;
  app.use(
    '/assets',
    staticCompressed(join(folder, 'assets'), {
      index: false,
      enableBrotli: true,
      orderPreference: ['br', 'gzip'],
      serveStatic: { immutable: true, maxAge: '1y' },
    }),
    nothingHere,
  );
  app.use(express.static(folder, { index: false }));
  const tell = async (request: Request, response: Response) => {
    await new Promise<void>((resolve, reject) => {
      session.readSession(request, response, (error?: unknown) => (error ? reject(error) : resolve()));
    });
    return session.tell(request);
  };
  app.get('/{*path}', async (request, response, next) => {
    // A file that is not there is none; screens have no ending.
    if (/\.\w+$/.test(request.path)) return nothingHere(request, response, next);
    if (page === undefined) return next(new Refusal(404, 'The web application is not built yet.'));
    const told = await Promise.race([
      tell(request, response).catch(() => undefined),
      delay(patience, undefined, { ref: false }),
    ]);
    response
      .set('Cache-Control', 'private, no-cache')
      .type('html')
      .send(page.with(told, request.path, log.position));
  });
  return async () => {};
}

const filesSchema = z.array(z.string());
const preloadsSchema = z.object({
  signedOut: filesSchema,
  signedIn: filesSchema,
  places: z.array(z.tuple([z.string(), filesSchema])),
});

/** The one page of the studio, and which files it loads at once. */
class Page {
  private readonly files: z.infer<typeof preloadsSchema>;

  constructor(
    folder: string,
    private readonly html: string,
  ) {
    this.files = preloadsSchema.parse(JSON.parse(readFileSync(join(folder, 'preloads.json'), 'utf8')));
  }

  /**
   * The page for a place, with who is signed in where that is known.
   *
   * @param position up to which change this server knows, so that the studio follows the changes from there on
   */
  with(session: Session | undefined, path: string, position: number): string {
    if (session === undefined) return this.html;
    // Read by the browser as data, so that no word of it is markup.
    const json = JSON.stringify(session).replaceAll('<', '\\u003c');
    const { signedOut, signedIn } = this.files;
    const files = session.account ? new Set([...signedIn, ...this.filesAt(path)]) : signedOut;
    return this.html
      .replace('<link', (first) => [...files].map(linkTo).join('') + first)
      .replace(
        '</body>',
        () =>
          `<script type="application/json" id="session" data-position="${position}">${json}</script></body>`,
      );
  }

  private filesAt(path: string): readonly string[] {
    const wanted = path.split('/').filter((part) => part !== '');
    const found = this.files.places.find(([place]) => {
      const parts = place.split('/');
      return (
        parts.length === wanted.length &&
        parts.every((part, at) => part.startsWith(':') || part === wanted[at])
      );
    });
    return found?.[1] ?? [];
  }
}

function linkTo(file: string): string {
  return file.endsWith('.css')
    ? `<link rel="stylesheet" crossorigin href="/${file}">`
    : `<link rel="modulepreload" crossorigin href="/${file}">`;
}

/** The studio as it is being worked on. */
export async function serveStudioForDevelopment(
  app: express.Express,
  root: string,
): Promise<() => Promise<void>> {
  const { createServer } = await import('vite');
  const vite = await createServer({
    root: join(root, 'web'),
    configFile: join(root, 'vite.config.ts'),
    server: { middlewareMode: true },
    appType: 'spa',
  });
  app.use(vite.middlewares);
  return () => vite.close();
}
