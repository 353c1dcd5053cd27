import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { Caller, type Instance, startInstance } from './instance.ts';

let instance: Instance;
beforeAll(async () => {
  instance = await startInstance(undefined, { isEmpty: true });
});
afterAll(() => instance.stop());

const asked = {
  siteName: 'Thornbury Row Gardens',
  zone: 'Europe/Paris',
  locale: 'fr-FR',
  name: 'Ana Duval',
  email: 'ana@example.org',
  password: 'nasturtium-seeds',
};

describe('an installation that nobody has set up', () => {
  it('shows visitors that the site is not open, and nobody any data', async () => {
    const site = await instance.visitor().get('/site/');
    expect(site.status).toBe(404);
    expect(site.text).not.toMatch(/Quillmere|Almanac|demo/i);
    expect((await instance.visitor().get('/api/contacts')).status).toBe(401);
    expect((await instance.visitor().get('/api/session')).body).toEqual({
      account: null,
      demo: null,
      firstStart: true,
    });
  });

  it('says what is wrong with what was typed, and makes nothing', async () => {
    const visitor = instance.visitor();
    for (const [field, value] of Object.entries({
      siteName: ' ',
      zone: 'Mars/Olympus',
      name: '',
      email: 'ana',
      password: 'short',
    })) {
      const answer = await visitor.call('POST', '/api/session/first', { ...asked, [field]: value });
      expect(answer.status).toBe(400);
      expect(answer.body.fields.map(({ path }: { path: string }) => path)).toContain(field);
    }
    expect((await visitor.get('/api/session')).body.firstStart).toBe(true);
  });

  it('takes one first account, although several ask at the same moment', async () => {
    const callers = Array.from({ length: 6 }, () => new Caller(instance.app.address));
    const answers = await Promise.all(
      callers.map((caller, index) =>
        caller.call('POST', '/api/session/first', {
          ...asked,
          siteName: `${asked.siteName} ${index}`,
          email: `ana${index}@example.org`,
        }),
      ),
    );
    expect(answers.map(({ status }) => status).sort()).toEqual([201, 409, 409, 409, 409, 409]);
    const winner = answers.findIndex(({ status }) => status === 201);
    const studio = callers[winner] ?? instance.visitor();
    const settings = (await studio.get('/api/settings')).body;
    expect(settings).toMatchObject({ name: `${asked.siteName} ${winner}`, zone: 'Europe/Paris' });
    expect((await studio.get('/api/team')).body).toEqual(['Ana Duval']);
    expect((await instance.visitor().get('/api/session')).body).toEqual({
      account: null,
      demo: null,
      firstStart: false,
    });
    expect((await callers[(winner + 1) % 6]?.get('/api/contacts'))?.status).toBe(401);
  });

  it('begins with nothing of the demo', async () => {
    const signedIn = instance.visitor();
    for (let index = 0; index < 6; index++)
      await signedIn.call('POST', '/api/session', {
        email: `ana${index}@example.org`,
        password: asked.password,
      });
    for (const path of [
      '/api/documents',
      '/api/audiences',
      '/api/collections',
      '/api/pictures',
      '/api/releases',
    ])
      expect((await signedIn.get(path)).body, path).toEqual([]);
    expect((await signedIn.get('/api/contacts')).body).toMatchObject({ contacts: [], total: 0 });
    const own = (await signedIn.get('/api/attributes')).body.filter(
      ({ source }: { source: string }) => source === 'contact',
    );
    expect(own.map(({ label }: { label: string }) => label)).toEqual([
      'first name',
      'last name',
      'email address',
      'lists',
      'tags',
    ]);
  });
});
