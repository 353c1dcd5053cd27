import sharp from 'sharp';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { type Caller, type Instance, startInstance } from './instance.ts';

let instance: Instance;
let studio: Caller;
const files: { [name: string]: string } = {};

const grey = { r: 120, g: 120, b: 120 };
const plain = (width: number, height: number) =>
  sharp({ create: { width, height, channels: 3, background: grey } });
/** Of a page of 2000 by 500, red in its left quarter. */
const marked = (turned: number) =>
  plain(2000, 500)
    .composite([
      {
        input: { create: { width: 500, height: 500, channels: 3, background: { r: 250, g: 0, b: 0 } } },
        left: 0,
        top: 0,
      },
    ])
    .jpeg({ quality: 95 })
    .withMetadata({ orientation: turned })
    .toBuffer();

async function bytesAt(path: string): Promise<{ status: number; type: string | null; bytes: Buffer }> {
  const answer = await fetch(instance.visitor().address + path);
  return {
    status: answer.status,
    type: answer.headers.get('content-type'),
    bytes: Buffer.from(await answer.arrayBuffer()),
  };
}

beforeAll(async () => {
  instance = await startInstance();
  studio = instance.studio;
  const frames = await Promise.all(
    [10, 200].map((r) => plain(1000, 300).tint({ r, g: 0, b: 0 }).png().toBuffer()),
  );
  const given = {
    'wide.jpg': await marked(1),
    // As a camera that was held on its side notes it: to be turned by a quarter, clockwise.
    'upright.jpg': await marked(6),
    'small.png': await plain(300, 200).png().toBuffer(),
    'film.webp': await sharp(frames, { join: { animated: true } })
      .webp({ loop: 0, delay: [100, 100] })
      .toBuffer(),
    'film.gif': await sharp(frames, { join: { animated: true } })
      .gif()
      .toBuffer(),
    // It says how large it is, and then ends.
    'cut.png': (await plain(3000, 2000).png().toBuffer()).subarray(0, 60),
    'drawing.svg': Buffer.from('<svg xmlns="http://www.w3.org/2000/svg" width="3000" height="200"/>'),
    'hidden.jpg': await marked(1),
  };
  for (const [name, bytes] of Object.entries(given)) {
    const { body, status, text } = await studio.call('POST', `/api/files?name=${name}`, bytes, {
      'content-type': 'application/octet-stream',
    });
    expect([name, status, text]).toEqual([name, 201, expect.any(String)]);
    files[name] = body.id;
  }
  const { body: page } = await studio.get('/api/documents/membership');
  const pictures = Object.entries(files)
    .filter(([name]) => name !== 'hidden.jpg')
    .map(([name, file]) => ({ kind: 'picture', id: `of-${file}`, file, picture: 'moon', alt: name }));
  const content = { ...page.content, body: [...pictures, ...page.content.body] };
  const { revision, name } = page;
  await studio.call('PUT', '/api/documents/membership', { revision, name, content });
  const { fingerprint } = (await studio.get('/api/releases/pending')).body;
  await studio.call('POST', '/api/releases', { note: 'Pictures', fingerprint });
});
afterAll(() => instance.stop());

it('are offered in each width that is smaller than their own, and drawings and films as they came', async () => {
  const { text } = await instance.visitor().get('/site/membership');
  const offered = (name: string) =>
    new RegExp(`alt="${name}"[^>]*srcset="([^"]*)"`)
      .exec(text)?.[1]
      ?.split(', ')
      .map((one) => one.replace(`/site/files/${files[name]}`, ''));
  expect(offered('wide.jpg')).toEqual(['/480.webp 480w', '/960.webp 960w', '/1600.webp 1600w', ' 2000w']);
  // 500 wide once it is turned.
  expect(offered('upright.jpg')).toEqual(['/480.webp 480w', ' 500w']);
  for (const name of ['small.png', 'film.gif', 'drawing.svg']) expect(offered(name)).toBeUndefined();
});

it('come in their width, upright, as small as that allows, the first time and from then on', async () => {
  for (const time of ['first', 'again']) {
    const whole = await bytesAt(`/site/files/${files['wide.jpg']}`);
    const small = await bytesAt(`/site/files/${files['wide.jpg']}/480.webp`);
    expect([time, small.status, small.type]).toEqual([time, 200, 'image/webp']);
    expect(small.bytes.length).toBeLessThan(whole.bytes.length / 3);
    const { width, height, format, exif } = await sharp(small.bytes).metadata();
    expect([width, height, format, exif]).toEqual([480, 120, 'webp', undefined]);
    const upright = await bytesAt(`/site/files/${files['upright.jpg']}/480.webp`);
    const turned = sharp(upright.bytes);
    expect(await turned.metadata()).toMatchObject({ width: 480, height: 1920 });
    // What was on the left is at the top.
    const [top, bottom] = await Promise.all(
      [100, 1800].map(async (y) => {
        const area = { left: 200, top: y, width: 1, height: 1 };
        const [r = 0, g = 0] = await sharp(upright.bytes).extract(area).raw().toBuffer();
        return { r, g };
      }),
    );
    expect(top?.r).toBeGreaterThan(200);
    expect(top?.g).toBeLessThan(60);
    expect(bottom?.g).toBeGreaterThan(90);
  }
});

it('come all at once to many who ask at the same time, and are never made larger', async () => {
  const asked = await Promise.all(
    Array.from({ length: 12 }, () => bytesAt(`/site/files/${files['wide.jpg']}/960.webp`)),
  );
  for (const { status, bytes } of asked) expect([status, bytes]).toEqual([200, asked[0]?.bytes]);
  const small = await bytesAt(`/site/files/${files['small.png']}/1600.webp`);
  expect(await sharp(small.bytes).metadata()).toMatchObject({ width: 300, height: 200 });
});

it.each(['film.webp', 'film.gif', 'cut.png', 'drawing.svg'])(
  '%s comes as it is in any width',
  async (name) => {
    const whole = await bytesAt(`/site/files/${files[name]}`);
    expect(whole.status).toBe(200);
    expect(await bytesAt(`/site/files/${files[name]}/960.webp`)).toEqual(whole);
  },
);

it('are nobody’s who may not have the file, in no width', async () => {
  for (const path of [
    `${files['hidden.jpg']}/480.webp`,
    'nothing-there/480.webp',
    `${files['wide.jpg']}/481.webp`,
  ]) {
    const { status, type } = await bytesAt(`/site/files/${path}`);
    expect([path, status, type?.startsWith('image')]).toEqual([path, 404, false]);
  }
});

it('are listed with where they are shown, and replaced there all at once', async () => {
  const put = async (name: string, bytes: Buffer) =>
    (
      await studio.call('POST', `/api/files?name=${name}`, bytes, {
        'content-type': 'application/octet-stream',
      })
    ).body.id;
  const red = await put('red.png', await plain(20, 10).png().toBuffer());
  const clip = await put('clip.mp4', Buffer.from('\0\0\0\x18ftypisom\0\0\0\0isommp42', 'latin1'));
  const page = (await studio.call('POST', '/api/documents', { kind: 'page', name: 'Shown', slug: 'shown' }))
    .body;
  const stored = await studio.call('PUT', `/api/documents/${page.id}`, {
    revision: page.revision,
    name: 'Shown',
    content: {
      ...page.content,
      body: [
        {
          kind: 'slot',
          id: 's',
          name: 'S',
          variants: [
            {
              id: 'v',
              audience: 'midnight-members',
              content: [{ kind: 'picture', id: 'p', file: red, picture: 'moon', alt: 'Red' }],
            },
          ],
          otherwise: [{ kind: 'video', id: 'm', file: clip, caption: '' }],
        },
      ],
    },
  });
  expect(stored.status).toBe(200);
  const listed = async (id: string) =>
    (await studio.get('/api/files')).body.find((file: { id: string }) => file.id === id);
  const use = { what: 'page', id: page.id, name: 'Shown', collection: null };
  expect(await listed(red)).toMatchObject({ name: 'red.png', width: 20, height: 10, uses: [use] });
  expect(await listed(clip)).toMatchObject({ type: 'video/mp4', width: null, uses: [use] });
  expect((await listed(red)).size).toBeGreaterThan(50);

  const blue = await put('blue.png', await plain(30, 10).png().toBuffer());
  const replace = (id: string, by: string) => studio.call('POST', `/api/files/${id}/replacement`, { by });
  expect((await replace(red, clip)).status).toBe(422);
  expect((await replace(red, 'never-was')).status).toBe(404);
  expect((await replace(red, blue)).body).toEqual({ places: 1 });
  const now = (await studio.get(`/api/documents/${page.id}`)).body;
  expect(now.revision).toBe(stored.body.revision + 1);
  expect(JSON.stringify(now.content)).toContain(blue);
  expect(JSON.stringify(now.content)).not.toContain(red);
  expect(JSON.stringify(now.content)).toContain(clip);
  expect((await listed(red)).uses).toEqual([]);
  // A window that had the page open learns of it when it stores.
  const late = await studio.call('PUT', `/api/documents/${page.id}`, {
    revision: stored.body.revision,
    name: 'Shown',
    content: page.content,
  });
  expect(late.status).toBe(409);
  expect((await instance.visitor().get('/api/files')).status).toBe(401);
});
