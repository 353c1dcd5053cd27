import { randomBytes } from 'node:crypto';
import { existsSync } from 'node:fs';
import { createServer, type RequestListener, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import express, { type NextFunction, type Request, type Response } from 'express';
import session from 'express-session';
import helmet from 'helmet';
import pino from 'pino';
import type { Sequelize } from 'sequelize';
import type { Viewer } from '../core/attributes/viewer.ts';
import { demoPictures } from '../demo/scenario.ts';
import { apiRouter } from './http/api.ts';
import { answerErrors, sameOriginOnly, signedInOnly } from './http/guards.ts';
import { knownHostsOnly } from './http/hosts.ts';
import { jsonBody } from './http/json-body.ts';
import { sessionRouter } from './http/session.ts';
import { MarkupThread } from './jobs/markup-thread.ts';
import { ReleaseThread } from './jobs/release-thread.ts';
import { Sending } from './mail/sending.ts';
import { UnsubscribeTokens } from './mail/unsubscribe.ts';
import { Outside } from './outside.ts';
import { Refusal } from './refusal.ts';
import { instanceSecret, isDemo } from './services/accounts.ts';
import { ApiKeys } from './services/api-keys.ts';
import { Attributes } from './services/attributes.ts';
import { Audiences } from './services/audiences.ts';
import { BulkChanges } from './services/bulk-changes.ts';
import { Collections } from './services/collections.ts';
import { ContactEdits } from './services/contact-edits.ts';
import { Contacts } from './services/contacts.ts';
import { Crm } from './services/crm.ts';
import { Documents } from './services/documents.ts';
import { Drafts } from './services/drafts.ts';
import { exportedFace } from './services/exported-face.ts';
import { StatedFacts } from './services/facts.ts';
import { Imports } from './services/imports.ts';
import { InstallationCheck } from './services/installation.ts';
import { People } from './services/people.ts';
import { Presence } from './services/presence.ts';
import { Releases } from './services/releases.ts';
import { Settings } from './services/settings.ts';
import { SealedAnswers } from './site/answers.ts';
import { decideRouter, frameRouter } from './site/decide.ts';
import { ItemViews } from './site/item-views.ts';
import { KnownTokens } from './site/known.ts';
import { LiveSite } from './site/live.ts';
import { siteTroubles } from './site/own-pages.ts';
import { siteRouter } from './site/router.ts';
import { readVisitor, signedInCookie } from './site/visitor.ts';
import { CrmStandIn } from './standins/crm.ts';
import { ForeignSite } from './standins/foreign-site.ts';
import { MailServer } from './standins/mail-server.ts';
import { answers } from './store/reach.ts';
import { Sessions, sessionLasts } from './store/sessions.ts';

const root = dirname(dirname(fileURLToPath(import.meta.url)));

export interface RunningApp {
  readonly address: string;
  readonly demo: boolean;
  readonly live: LiveSite;
  readonly drafts: Drafts;
  readonly people: People;
  readonly crmStandIn: CrmStandIn | undefined;
  readonly foreignSite: ForeignSite | undefined;
  stop(): Promise<void>;
}

/**
 * Starts everything that one instance serves: the studio with its API, the live site, and the mail stand-in.
 *
 * @param port 0 for a free one
 * @param data the folder for files that are not in the database
 * @param dev serves the web application through Vite, with hot reload
 */
export async function startApp(
  sequelize: Sequelize,
  port: number,
  data: string,
  dev = false,
): Promise<RunningApp> {
  const log = pino({ level: process.env.LOG_LEVEL ?? 'warn' });
  const app = express();
  const { server, serve } = await listen(port);
  const address = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;

  const secret = await instanceSecret(() => randomBytes(32).toString('hex'));
  const demo = await isDemo();
  const drafts = new Drafts();
  const attributeCount = (await drafts.snapshot()).attributes.length;
  const people = await People.open(sequelize, attributeCount, Number(process.env.CONTACT_MEMORY_MB ?? 2048));
  const views = new ItemViews(sequelize);
  await views.load();
  const live = new LiveSite(address, views.counts);
  const pictures = demoPictures;
  const hasPicture = (name: string) => pictures.some((picture) => picture.name === name);
  const comparing = new ReleaseThread();
  const releases = new Releases(drafts, live, people, views.counts, hasPicture, comparing);
  await releases.load((release, error) => log.error({ err: error, release }, 'a release can’t be shown'));
  const mailServer = new MailServer();
  const smtpPort = await mailServer.start();
  const tokens = new UnsubscribeTokens(secret);
  const known = new KnownTokens(secret);
  const site = { live, people, tokens, known, answers: new SealedAnswers(secret), views, demo };
  const imports = new Imports(sequelize, people, drafts, join(data, 'imports'));
  await imports.settle();
  const crmStandIn = demo ? new CrmStandIn(Date.now()) : undefined;
  const mayBePrivate = new Set(wordsOf(process.env.PRIVATE_HOSTS));
  if (demo) mayBePrivate.add(new URL(address).host);
  const outside = new Outside(mayBePrivate);
  const crm = new Crm(sequelize, people, drafts, crmStandIn, `${address}/stand-ins/crm`, outside);
  const apiKeys = new ApiKeys();
  const foreign = demo ? await startForeignSite(port, address, live, apiKeys) : undefined;
  // What the demo brings along stands on this machine.
  if (foreign) mayBePrivate.add(new URL(foreign.origin).host);
  crm.start();
  const markup = new MarkupThread();
  const contacts = new Contacts(people, drafts);
  const sessions = new Sessions(sequelize);
  const services = {
    contacts,
    contactEdits: new ContactEdits(people, drafts, contacts, live, imports, sessions),
    bulkChanges: new BulkChanges(drafts, contacts, imports),
    imports,
    drafts,
    crm,
    crmStandIn,
    attributes: new Attributes(sequelize, people, drafts),
    audiences: new Audiences(people, drafts, live),
    facts: new StatedFacts(people, drafts),
    collections: new Collections(drafts),
    presence: new Presence(),
    documents: new Documents(people, drafts, markup),
    apiKeys,
    installation: new InstallationCheck(live, apiKeys, outside, markup),
    settings: new Settings(drafts),
    exportFace: async (id: string, viewer: Viewer) =>
      exportedFace(await drafts.snapshot(), id, viewer, root, address, views.counts),
    foreignSite: foreign?.origin,
    views: views.counts,
    releases,
    sending: new Sending(people, live, tokens, known, address, smtpPort),
    pictures,
  };

  // The first question is then as quick as the next.
  await services.audiences.list();
  app.disable('x-powered-by');
  app.use(knownHostsOnly(address, wordsOf(process.env.PUBLIC_ORIGINS)));
  app.use(securityHeaders(dev));
  const cookies = (name: string, path: string) =>
    session({
      name,
      secret,
      store: sessions,
      resave: false,
      saveUninitialized: false,
      cookie: { path, httpOnly: true, sameSite: 'lax', maxAge: sessionLasts },
    });

  app.use(
    '/site',
    readVisitor(secret, sessions, cookies(signedInCookie, '/site')),
    siteRouter(site, address),
  );
  app.use('/site', siteTroubles(site, log));
  app.use(
    '/pictures',
    // Mail programs show these on pages of their own.
    helmet.crossOriginResourcePolicy({ policy: 'cross-origin' }),
    express.static(join(root, 'demo/pictures'), { maxAge: '1h' }),
  );
  const anywhere = helmet.crossOriginResourcePolicy({ policy: 'cross-origin' });
  app.use(
    '/embed/porch.js',
    anywhere,
    express.static(join(root, 'server/site/assets/embed.js'), { maxAge: '5m' }),
  );
  app.use('/embed/frame', frameRouter(site, apiKeys));
  app.use('/v1', decideRouter(site, apiKeys, address));
  app.get('/health', async (_request, response) => {
    const reachable = await answers(sequelize);
    response
      .status(reachable ? 200 : 503)
      .set('Cache-Control', 'no-store')
      .json({ database: reachable ? 'reachable' : 'unreachable', release: live.current?.release ?? null });
  });
  if (crmStandIn) app.use('/stand-ins/crm', crmStandIn.router());
  app.use('/site-assets/fonts', ...fontFolders());
  app.use('/site-assets', express.static(join(root, 'server/site/assets'), { maxAge: 0 }));

  // Browsers ask for it on every site that names none.
  app.get('/favicon.ico', (_request, response) => {
    response.status(204).set('Cache-Control', 'public, max-age=86400').end();
  });
  // None of these is a screen of the studio, which every other address is.
  app.use(['/site-assets', '/pictures', '/embed', '/v1', '/stand-ins'], nothingHere);

  app.use('/api', cookies('porch_studio', '/'), sameOriginOnly, (_request, response, next) => {
    response.set('Cache-Control', 'no-store');
    next();
  });
  app.use('/api/session', ...jsonBody('10kb'), sessionRouter(demo));
  // Nobody's body is read before it is known who sends it, and none at a size that its address has no use for.
  app.use('/api', signedInOnly);
  app.use(['/api/documents', '/api/collections'], ...jsonBody('25mb'));
  app.use('/api', ...jsonBody('2mb'));
  app.use('/api', apiRouter(services));
  app.use('/api', nothingHere);

  const closeWeb = dev ? await serveWebForDevelopment(app) : serveWeb(app);
  app.use(answerErrors(log));
  serve(app);

  return {
    address,
    demo,
    live,
    drafts,
    people,
    crmStandIn,
    foreignSite: foreign,
    async stop() {
      sessions.stop();
      await crm.stop();
      server.closeAllConnections();
      await new Promise<void>((resolve) => server.close(() => resolve()));
      await closeWeb();
      await foreign?.stop();
      await views.write();
      await mailServer.stop();
      await imports.stop();
      await markup.stop();
      await comparing.stop();
      await people.asks.stop();
      await sequelize.close();
    },
  };
}

/** What a setting lists, with commas between. */
function wordsOf(setting: string | undefined): string[] {
  return (setting ?? '').split(',').flatMap((word) => word.trim() || []);
}

/** A server that listens already; requests that come before there is anything to serve them wait until there is. */
async function listen(port: number): Promise<{ server: Server; serve: (by: RequestListener) => void }> {
  const waiting: Parameters<RequestListener>[] = [];
  const hold: RequestListener = (...request) => waiting.push(request);
  const server = createServer(hold);
  // Longer than browsers and proxies keep an idle connection, so that none is closed under a request on its way.
  server.keepAliveTimeout = 75_000;
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, '127.0.0.1', () => {
      server.off('error', reject);
      resolve();
    });
  });
  return {
    server,
    serve(by) {
      server.off('request', hold);
      server.on('request', by);
      for (const request of waiting.splice(0)) by(...request);
    },
  };
}

/** The demo's other site, beside the port of the first where that is free, with keys made anew at each start. */
async function startForeignSite(
  port: number,
  porch: string,
  live: LiveSite,
  keys: ApiKeys,
): Promise<ForeignSite> {
  const named = (name: string) =>
    live.current?.compiled.slotKeys().find(({ slot }) => slot === name)?.key ?? `home/${name}`;
  const slots = { offer: named('Offer card'), banner: named('Welcome banner') };
  const foreign = await ForeignSite.start(port === 0 ? 0 : port + 1, slots).catch(() =>
    ForeignSite.start(0, slots),
  );
  const key = () => randomBytes(18).toString('base64url');
  const [browserKey, serverKey] = [`porch-browser-${key()}`, `porch-server-${key()}`];
  const name = 'The Ashwold Lens Shop';
  await keys.keep({ id: 'demo-browser', name, origins: [foreign.origin], isSecret: false }, browserKey);
  await keys.keep({ id: 'demo-server', name: `${name}, its server`, origins: [], isSecret: true }, serverKey);
  foreign.of = { porch, browserKey, serverKey };
  return foreign;
}

function securityHeaders(dev: boolean) {
  return helmet({
    contentSecurityPolicy: dev
      ? false
      : {
          useDefaults: false,
          directives: {
            defaultSrc: ["'self'"],
            // Emails are shown with their styling inline, as mail programs need it.
            styleSrc: ["'self'", "'unsafe-inline'"],
            imgSrc: ["'self'", 'data:'],
            objectSrc: ["'none'"],
            baseUri: ["'none'"],
            formAction: ["'self'"],
            frameAncestors: ["'none'"],
          },
        },
    // The address is plain http on loopback; a promise of https would lock browsers out.
    strictTransportSecurity: false,
    crossOriginEmbedderPolicy: false,
  });
}

function fontFolders() {
  return ['bricolage-grotesque', 'instrument-sans'].map((font) =>
    express.static(join(root, 'node_modules/@fontsource-variable', font, 'files'), { maxAge: '30d' }),
  );
}

function nothingHere(_request: Request, _response: Response, next: NextFunction): void {
  next(new Refusal(404, 'There is nothing at this address.'));
}

function serveWeb(app: express.Express): () => Promise<void> {
  const folder = join(root, 'dist/web');
  const index = join(folder, 'index.html');
  app.use('/assets', express.static(join(folder, 'assets'), { immutable: true, maxAge: '1y' }), nothingHere);
  app.use(express.static(folder, { index: false }));
  app.get('/{*path}', (request, response, next) => {
    // A file that is not there is none; screens have no ending.
    if (/\.\w+$/.test(request.path)) return nothingHere(request, response, next);
    if (!existsSync(index)) return next(new Refusal(404, 'The web application is not built yet.'));
    response.set('Cache-Control', 'no-cache').sendFile(index);
  });
  return async () => {};
}

async function serveWebForDevelopment(app: express.Express): Promise<() => Promise<void>> {
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
