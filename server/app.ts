import { randomBytes } from 'node:crypto';
import { createServer, type RequestListener, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import express, { Router } from 'express';
import session from 'express-session';
import helmet from 'helmet';
import { z } from 'zod';
import type { Viewer } from '../core/attributes/viewer.ts';
import { demoAccount, demoPictures, demoSiteAccounts, demoSitePassword } from '../demo/scenario.ts';
import { AudienceCounts } from './audiences/audience-counts.ts';
import { Audiences } from './audiences/audiences.ts';
import { audiencesRouter } from './audiences/routes.ts';
import { StoredAudiences } from './audiences/stored-audiences.ts';
import { Collections } from './collections/collections.ts';
import { Items } from './collections/items.ts';
import { collectionsRouter, itemsRouter, libraryRouter } from './collections/routes.ts';
import { itemsNamed } from './collections/rows.ts';
import type { Configuration } from './configuration.ts';
import { tiesOfContacts } from './contact-ties.ts';
import { Crm } from './crm/crm.ts';
import { crmRouter } from './crm/routes.ts';
import { startForeignSite } from './demo/other-site.ts';
import { Documents } from './documents/documents.ts';
import { exportedFace } from './documents/exported-face.ts';
import { FileLibrary } from './documents/file-library.ts';
import { FileSizes } from './documents/file-sizes.ts';
import { MarkupThread } from './documents/markup-thread.ts';
import { Presence } from './documents/presence-rows.ts';
import { documentsRouter, filesRouter } from './documents/routes.ts';
import { pageAt } from './documents/rows.ts';
import { draftedKinds } from './drafted.ts';
import { ApiKeys } from './embed/api-keys.ts';
import { decideRouter, frameRouter } from './embed/decide.ts';
import { InstallationCheck } from './embed/installation.ts';
import { embeddingRouter, keysRouter } from './embed/routes.ts';
import { changeStream } from './http/change-stream.ts';
import { compressed } from './http/compressed.ts';
import { differences } from './http/differences.ts';
import { answerErrors, sameOriginOnly, signedInOnly } from './http/guards.ts';
import { healthRouter } from './http/health.ts';
import { knownHostsOnly } from './http/hosts.ts';
import { inTurn } from './http/in-turn.ts';
import { jsonBody } from './http/json-body.ts';
import { SharedCounts } from './http/limit-rows.ts';
import { Metrics } from './http/metrics.ts';
import { nothingHere } from './http/nothing-here.ts';
import { Outside } from './http/outside.ts';
import { positionInCookie, positionInHeader } from './http/positions.ts';
import { openLog, requestLog } from './http/request-log.ts';
import { serveStudio, serveStudioForDevelopment } from './http/studio.ts';
import { BulkChanges } from './imports/bulk-changes.ts';
import { ImportWorker } from './imports/import-work.ts';
import { Imports } from './imports/imports.ts';
import { bulkChangesRouter, importsRouter } from './imports/routes.ts';
import { mailboxRouter, sendsRouter } from './mail/routes.ts';
import { releasesOfSends } from './mail/rows.ts';
import { Sending } from './mail/sending.ts';
import { UnsubscribeTokens } from './mail/unsubscribe.ts';
import { Attributes } from './people/attributes.ts';
import { ContactEdits } from './people/contact-edits.ts';
import { Contacts } from './people/contacts.ts';
import { Exports } from './people/exports.ts';
import { StatedFacts } from './people/facts.ts';
import { People } from './people/people.ts';
import { attributesRouter, contactsRouter, factsRouter, setAsideRouter } from './people/routes.ts';
import { Impacts } from './releases/impacts.ts';
import { ReleaseThread } from './releases/release-thread.ts';
import { Releases } from './releases/releases.ts';
import { releasesRouter, settingsRouter } from './releases/routes.ts';
import { Settings } from './releases/settings.ts';
import { SiteAssets } from './site/assets.ts';
import { ItemViews } from './site/item-views.ts';
import { siteTroubles } from './site/own-pages.ts';
import { siteRouter } from './site/router.ts';
import { Drafts } from './snapshots/drafts.ts';
import { LiveSite } from './snapshots/live.ts';
import { CrmStandIn } from './standins/crm.ts';
import type { ForeignSite } from './standins/foreign-site.ts';
import { MailServer } from './standins/mail-server.ts';
import { ChangeLog } from './store/change-log.ts';
import type { Sequelize } from './store/database.ts';
import { Sessions, sessionLasts } from './store/sessions.ts';
import { instanceSecret, isDemo } from './team/accounts.ts';
import { teamNames } from './team/rows.ts';
import { Door, sessionRouter } from './team/session.ts';
import { SealedAnswers } from './visitors/answers.ts';
import { KnownTokens } from './visitors/known.ts';
import { readVisitor, signedInCookie } from './visitors/visitor.ts';
import { JobQueue } from './work/queue.ts';
import { jobsRouter } from './work/routes.ts';

const root = dirname(dirname(fileURLToPath(import.meta.url)));

export interface RunningApp {
  readonly address: string;
  readonly demo: boolean;
  readonly live: LiveSite;
  readonly drafts: Drafts;
  readonly people: People;
  readonly queue: JobQueue;
  readonly crmStandIn: CrmStandIn | undefined;
  readonly foreignSite: ForeignSite | undefined;
  stop(): Promise<void>;
}

/** Starts everything that one server does: the studio with its API, the live site, work in the background, stand-ins. */
export async function startApp(sequelize: Sequelize, configuration: Configuration): Promise<RunningApp> {
  const { PORT: port, HOST: host, PUBLIC_URL, TRUST_PROXY, ROLE, APPLE_PORCH_DEV: dev } = configuration;
  const logger = openLog(configuration.LOG_LEVEL);
  const app = express();
  const { server, serve } = await listen(port, host);
  const own = `http://${localName(host)}:${(server.address() as AddressInfo).port}`;
  const address = PUBLIC_URL ?? own;

  const secret = await instanceSecret(() => randomBytes(32).toString('hex'));
  const demo = await isDemo();
  const log = await ChangeLog.open(sequelize);
  const queue = new JobQueue(log);
  const counts = new SharedCounts(sequelize);
  const presence = new Presence(sequelize);
  const drafts = new Drafts(log, draftedKinds);
  const attributeCount = (await drafts.snapshot()).attributes.length;
  const people = await People.open(sequelize, log, attributeCount, {
    megabytes: configuration.CONTACT_MEMORY_MB,
    folder: configuration.CONTACT_FOLDER,
  });
  const views = new ItemViews(sequelize, log);
  await views.load();
  const assets = new SiteAssets(root);
  const sizes = await FileSizes.open(log, demo ? demoPictures : []);
  const live = new LiveSite(address, { assets: assets.folder, views: views.counts, sizes: sizes.known });
  const pictures = demo ? demoPictures : [];
  const hasPicture = (name: string) => pictures.some((picture) => picture.name === name);
  const comparing = new ReleaseThread();
  const storedAudiences = new StoredAudiences(log);
  const releases = new Releases(
    drafts,
    live,
    people,
    storedAudiences,
    hasPicture,
    comparing,
    log,
    (release, error) => logger.error({ err: error, release }, 'a release can’t be shown'),
  );
  const impacts = new Impacts(drafts, live, people, views.counts, comparing, queue, log);
  await releases.load();
  const mailServer = configuration.SMTP_URL === undefined ? new MailServer() : undefined;
  const smtp = configuration.SMTP_URL ?? `smtp://127.0.0.1:${await mailServer?.start()}?ignoreTLS=true`;
  const metrics = new Metrics({
    jobs: () => queue.counts(),
    contacts: () => people.asks.total(),
    position: () => log.position,
    release: () => live.current?.release ?? 0,
  });
  const tokens = new UnsubscribeTokens(secret);
  const known = new KnownTokens(secret);
  const site = {
    live,
    people,
    tokens,
    known,
    answers: new SealedAnswers(secret),
    views,
    counts,
    metrics,
    trying: demo ? { people: demoSiteAccounts, password: demoSitePassword } : undefined,
  };
  const importWorker = new ImportWorker(sequelize, log, drafts);
  const imports = new Imports(sequelize, queue, drafts, importWorker);
  const crmStandIn = demo ? new CrmStandIn(Date.now()) : undefined;
  await crmStandIn?.follow(log);
  const mayBePrivate = new Set(configuration.PRIVATE_HOSTS);
  if (demo) mayBePrivate.add(new URL(own).host);
  const outside = new Outside(mayBePrivate);
  const crm = new Crm(sequelize, queue, drafts, crmStandIn, `${own}/stand-ins/crm`, outside);
  const apiKeys = new ApiKeys(log);
  const foreign = demo ? await startForeignSite(port, address, live, apiKeys) : undefined;
  // What the demo brings along stands on this machine.
  if (foreign) mayBePrivate.add(new URL(foreign.origin).host);
  await crm.start();
  const markup = new MarkupThread();
  const contacts = new Contacts(people, drafts);
  const exports = new Exports(sequelize, queue, contacts);
  await clearByTheHour(queue, [
    () => counts.clear(),
    () => presence.clear(),
    () => exports.clear(),
    () => impacts.clear(),
    async () => releases.clear(await releasesOfSends()),
  ]);
  const sessions = new Sessions(sequelize, log);
  const contactEdits = new ContactEdits(
    people,
    drafts,
    contacts,
    live,
    tiesOfContacts(imports, exports),
    sessions,
  );
  const bulkChanges = new BulkChanges(drafts, contacts, imports);
  const attributes = new Attributes(sequelize, people, drafts);
  const audiences = new Audiences(people, drafts, live, storedAudiences);
  const collections = new Collections(drafts, pageAt);
  const items = new Items(drafts);
  const documents = new Documents(people, drafts, markup, log);
  const installation = new InstallationCheck(live, apiKeys, outside, markup);
  const sending = new Sending(
    people,
    live,
    queue,
    (release) => releases.stored(release),
    { tokens, known, origin: address },
    smtp,
  );
  const exportFace = async (id: string, viewer: Viewer) =>
    exportedFace(await drafts.snapshot(), id, viewer, root, address, views.counts);

  // The first question is then as quick as the next; the site is served meanwhile.
  void audiences.list().catch(() => undefined);
  app.disable('x-powered-by');
  app.set('trust proxy', TRUST_PROXY);
  app.use(inTurn(metrics.watch(app), requestLog(logger)));
  const guards = [knownHostsOnly(own, [address, ...configuration.PUBLIC_ORIGINS]), securityHeaders(dev)];
  const cookies = (name: string, path: string) =>
    session({
      name,
      secret,
      store: sessions,
      resave: false,
      saveUninitialized: false,
      cookie: { path, httpOnly: true, sameSite: 'lax', secure: 'auto', maxAge: sessionLasts },
    });

  // First, as most ask for it. A server for the background has no site.
  if (ROLE !== 'work') {
    const reader = readVisitor(secret, sessions, cookies(signedInCookie, '/site'));
    const before = [...guards, positionInCookie(log), reader];
    app.use('/site', siteRouter(site, address, before), siteTroubles(site, logger));
  }
  app.use(compressed());
  // Whatever watches over servers asks each by its own address.
  app.use(
    '/health',
    healthRouter(sequelize, () => live.current?.release),
  );
  app.use(...guards);
  app.get('/metrics', metrics.answer(configuration.METRICS_TOKEN));
  // It has nobody to talk to but what watches over it.
  if (ROLE === 'work') app.use(nothingHere);
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
  if (crmStandIn) app.use('/stand-ins/crm', crmStandIn.router());
  app.use('/site-assets', assets.router());

  // Browsers ask for it on every site that names none.
  app.get('/favicon.ico', (_request, response) => {
    response.status(204).set('Cache-Control', 'public, max-age=86400').end();
  });
  // None of these is a screen of the studio, which every other address is.
  app.use(['/site-assets', '/pictures', '/embed', '/v1', '/stand-ins', '/health'], nothingHere);

  const studioCookies = cookies('porch_studio', '/');
  app.use('/api', positionInHeader(log), studioCookies, sameOriginOnly, (_request, response, next) => {
    response.set('Cache-Control', 'no-store');
    next();
  });
  const door = new Door(demo ? demoAccount : undefined);
  app.use('/api/session', ...jsonBody('10kb'), sessionRouter(door, counts));
  // Nobody's body is read before it is known who sends it, and none at a size that its address has no use for.
  app.use('/api', signedInOnly);
  app.use(['/api/documents', '/api/collections'], ...jsonBody('25mb'));
  app.use('/api', ...jsonBody('2mb'));
  app.get('/api/changes', changeStream(log));
  const api = Router();
  api.use(differences());
  api.use('/attributes', attributesRouter(attributes, contacts, drafts, itemsNamed));
  api.use('/set-aside', setAsideRouter());
  api.use('/contacts/changes', bulkChangesRouter(bulkChanges));
  api.use('/contacts', contactsRouter(contacts, contactEdits, exports));
  api.use('/facts', factsRouter(new StatedFacts(people, drafts)));
  api.use('/imports', importsRouter(imports));
  api.use('/crm', crmRouter(crm, crmStandIn));
  api.use('/audiences', audiencesRouter(audiences, new AudienceCounts(people, drafts)));
  api.use('/documents', documentsRouter(documents, presence, exportFace));
  api.use('/files', filesRouter(new FileLibrary(drafts)));
  api.get('/pictures', (_request, response) => {
    response.json(pictures);
  });
  api.use('/collections', collectionsRouter(collections, items));
  api.use('/items', itemsRouter(items));
  api.use('/library', libraryRouter(drafts, views.counts));
  api.use('/releases', releasesRouter(releases, impacts));
  api.use('/settings', settingsRouter(new Settings(drafts), drafts));
  api.use('/api-keys', keysRouter(apiKeys));
  api.use('/', embeddingRouter(releases, installation, foreign?.origin));
  api.use('/sends', sendsRouter(sending));
  api.use('/mailbox', mailboxRouter());
  api.get('/team', async (_request, response) => {
    response.json(await teamNames());
  });
  api.use('/jobs', jobsRouter(queue));
  app.use('/api', api);
  app.use('/api', nothingHere);

  const closeWeb = dev
    ? await serveStudioForDevelopment(app, root)
    : serveStudio(app, root, { readSession: studioCookies, tell: (request) => door.tell(request) }, log);
  app.use(answerErrors(logger));
  serve(app);
  log.start();
  if (ROLE !== 'web') queue.start();

  return {
    address: own,
    demo,
    live,
    drafts,
    people,
    queue,
    crmStandIn,
    foreignSite: foreign,
    async stop() {
      await log.stop();
      sessions.stop();
      await queue.stop();
      server.closeAllConnections();
      await new Promise<void>((resolve) => server.close(() => resolve()));
      await closeWeb();
      await foreign?.stop();
      await views.write();
      await mailServer?.stop();
      await importWorker.stop();
      await markup.stop();
      await comparing.stop();
      await people.stop();
      await sequelize.close();
    },
  };
}

/** Has what is over removed once an hour, by one of all servers. */
async function clearByTheHour(queue: JobQueue, clearing: readonly (() => Promise<void>)[]): Promise<void> {
  const kind = 'clear';
  queue.handle({
    kind,
    payload: z.null(),
    tries: 1,
    async run() {
      for (const clear of clearing) await clear();
      await queue.forget(30 * 24 * 3_600_000);
    },
  });
  await queue.add({
    kind,
    title: 'Clean up expired data',
    payload: null,
    key: kind,
    every: 3600,
  });
}

/** How a server that listens at an address is reached on its own machine. */
function localName(host: string): string {
  if (host === '0.0.0.0' || host === '::') return '127.0.0.1';
  return host.includes(':') ? `[${host}]` : host;
}

/** A server that listens already; requests that come before there is anything to serve them wait until there is. */
async function listen(
  port: number,
  host: string,
): Promise<{ server: Server; serve: (by: RequestListener) => void }> {
  const waiting: Parameters<RequestListener>[] = [];
  const hold: RequestListener = (...request) => waiting.push(request);
  const server = createServer(hold);
  // Longer than browsers and proxies keep an idle connection, so that none is closed under a request on its way.
  server.keepAliveTimeout = 75_000;
  await new Promise<void>((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, host, () => {
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
