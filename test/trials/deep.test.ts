import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Condition } from '../../core/conditions/condition.ts';
import { type Instance, startInstance } from '../server/instance.ts';

// What is nested deep is taken whole, with all that follows from it, or refused at once.

let instance: Instance;
beforeAll(async () => {
  instance = await startInstance();
});
afterAll(() => instance.stop());

function nestedSections(depth: number): object {
  const paragraph = (text: string) => ({ type: 'paragraph', content: [{ type: 'text', text }] });
  const innermost = {
    kind: 'text',
    id: 'innermost',
    content: [
      { type: 'bulletList', content: [{ type: 'listItem', content: [paragraph('At the very bottom')] }] },
    ],
  };
  let node: object = innermost;
  for (let level = 0; level < depth; level++)
    node = {
      kind: 'section',
      id: `section-${level}`,
      name: '',
      tone: 'plain',
      layout: 'stack',
      children: [node],
    };
  return node;
}

const save = async (id: string, body: unknown[]) => {
  const stored = (await instance.studio.get(`/api/documents/${id}`)).body;
  return instance.studio.call('PUT', `/api/documents/${id}`, {
    ...stored,
    content: { ...stored.content, body },
  });
};
const release = async () => {
  const { fingerprint } = (await instance.studio.get('/api/releases/pending')).body;
  return instance.studio.call('POST', '/api/releases', { note: 'Deep', fingerprint });
};

describe('what is nested deep', () => {
  it('is refused before it is parsed where it is nested without an end', async () => {
    for (const [open, close] of [
      ['[', ']'],
      ['{"a":', '}'],
    ] as const) {
      const body = `{"condition":${open.repeat(150_000)}1${close.repeat(150_000)}}`;
      const answer = await instance.studio.call('POST', '/api/audiences/count', body);
      expect([answer.status, answer.body.message]).toEqual([400, 'The body is nested too deep.']);
    }
    // Brackets within a text are none.
    const text = await instance.studio.call('POST', '/api/documents', {
      kind: 'page',
      name: '[{"\\'.repeat(25),
      slug: 'brackets',
    });
    expect(text.status).toBe(201);
  });

  it('is saved, released, and loaded by a server that starts anew', async () => {
    const made = await instance.studio.call('POST', '/api/documents', {
      kind: 'page',
      name: 'Deep',
      slug: 'deep',
    });
    const saved = await save(made.body.id, [nestedSections(30)]);
    expect([saved.status, saved.text]).toEqual([200, saved.text]);
    let condition: Condition = { kind: 'test', attribute: 'tier', op: 'has-value', values: [] };
    for (let level = 0; level < 49; level++)
      condition = { kind: 'not', of: { kind: 'all', of: [condition] } };
    const audience = await instance.studio.call('POST', '/api/audiences', {
      name: 'Deep',
      description: '',
      condition,
      examples: [],
    });
    expect([audience.status, audience.text]).toEqual([201, audience.text]);
    const released = await release();
    expect([released.status, released.text]).toEqual([201, released.text]);
    const again = await startInstance(instance);
    expect((await again.visitor().get('/site/deep')).text).toContain('At the very bottom');
    expect((await again.studio.get(`/api/audiences`)).text).toContain(audience.body.id);
    await again.app.stop();
  });
});
