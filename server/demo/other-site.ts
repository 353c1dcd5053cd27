import type { ApiKeys } from '../embed/api-keys.ts';
import type { LiveSite } from '../snapshots/live.ts';
import { ForeignSite } from '../standins/foreign-site.ts';

/** The demo's other site, beside the port of the first where that is free, with keys that stay the same. */
export async function startForeignSite(
  port: number,
  porch: string,
  live: LiveSite,
  keys: ApiKeys,
): Promise<ForeignSite> {
  const named = (name: string) =>
    live.current?.compiled.slots.keys().find(({ slot }) => slot === name)?.key ?? `home/${name}`;
  const slots = { offer: named('Offer card'), banner: named('Welcome banner') };
  const foreign = await ForeignSite.start(port === 0 ? 0 : port + 1, slots).catch(() =>
    ForeignSite.start(0, slots),
  );
  const name = 'The Ashwold Lens Shop';
  const browserKey = await keys.keepFor({ id: 'demo-browser', name, isSecret: false }, foreign.origin);
  const serverKey = await keys.keepFor({ id: 'demo-server', name: `${name}, its server`, isSecret: true });
  foreign.of = { porch, browserKey, serverKey };
  return foreign;
}
