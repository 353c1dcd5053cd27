import { Router } from 'express';
import type { Sequelize } from '../store/database.ts';
import { answers } from '../store/reach.ts';

/**
 * Whether the server lives, and whether it can do its work, for what watches over it. A server that can't reach its database
 * still shows the site to who is not signed in, and must not be started anew for that: it lives, but is not ready.
 */
export function healthRouter(sequelize: Sequelize, release: () => number | undefined): Router {
  const router = Router();
  router.use((_request, response, next) => {
    response.set('Cache-Control', 'no-store');
    next();
  });
  router.get('/live', (_request, response) => {
    response.json({ live: true });
  });
  router.get(['/', '/ready'], async (_request, response) => {
    const reachable = await answers(sequelize);
    response.status(reachable ? 200 : 503).json({
      live: true,
      ready: reachable,
      database: reachable ? 'reachable' : 'unreachable',
      release: release() ?? null,
    });
  });
  return router;
}
