import { not, test } from '../core/conditions/condition.ts';
import { mapTests } from '../core/conditions/rewrite.ts';
import type { Content, Node } from '../core/documents/document.ts';
import { words } from '../core/documents/text.ts';
import { demoAccount, demoSitePassword } from '../demo/scenario.ts';
import { AudienceRow } from '../server/audiences/rows.ts';
import { DocumentRow } from '../server/documents/rows.ts';
import { AttributeRow } from '../server/people/rows.ts';
import { inTransaction } from '../server/store/transaction.ts';
import { attributes, randomAudiences, randomPage } from './crowd.ts';

export const heaviest = 'heaviest';
export const ofVisit = 'heaviest-visit';

export async function addHeaviestPages(): Promise<void> {
  // Beside the demo's own, some of which have the same names.
  const rows = attributes.map((attribute, position) => {
    const definition = { ...attribute, id: `crowd-${attribute.id}`, label: `crowd ${attribute.label}` };
    return { id: definition.id, position: 100 + position, definition };
  });
  const phone = test('visit-device', 'is-one-of', 'phone');
  const audiences = [
    ...randomAudiences(40).map((audience) => ({
      ...audience,
      name: `heavy ${audience.name}`,
      condition: mapTests(audience.condition, (one) => ({ ...one, attribute: `crowd-${one.attribute}` })),
    })),
    { id: 'on-a-computer', name: 'On a computer', description: '', condition: not(phone) },
  ];
  const content = filled(randomPage(30, 40));
  const [first] = content.body;
  const forVisit: Content = {
    ...content,
    body:
      first?.kind === 'slot'
        ? [
            {
              ...first,
              variants: [
                { id: 'computer', audience: 'on-a-computer', content: [heading('c', 'On a computer')] },
              ],
            },
            ...content.body.slice(1),
          ]
        : content.body,
  };
  await inTransaction(async (transaction) => {
    await AttributeRow.bulkCreate(rows, { transaction });
    await AudienceRow.bulkCreate(audiences, { transaction });
    for (const [id, own] of [
      [heaviest, content],
      [ofVisit, forVisit],
    ] as const)
      await DocumentRow.create({ id, kind: 'page', name: id, slug: id, content: own }, { transaction });
  });
}

function heading(id: string, text: string): Node {
  return { kind: 'heading', id, level: 2, content: words(text) };
}

/** Each variant of each slot with a heading and a paragraph of its own. */
export function filled(content: Content): Content {
  const shown = (id: string): Node[] => [
    heading(`h${id}`, `What ${id} is about`),
    {
      kind: 'text',
      id: `t${id}`,
      content: [{ type: 'paragraph', content: words(`${id} `.repeat(30)) }],
    },
  ];
  return {
    ...content,
    body: content.body.map((node) =>
      node.kind === 'slot'
        ? {
            ...node,
            variants: node.variants.map((variant) => ({ ...variant, content: shown(variant.id) })),
            otherwise: shown(node.id),
          }
        : node,
    ),
  };
}

export async function releaseAll(address: string): Promise<void> {
  const json = { 'content-type': 'application/json' };
  const session = await fetch(`${address}/api/session`, {
    method: 'POST',
    headers: json,
    body: JSON.stringify({ email: demoAccount.email, password: demoAccount.password }),
  });
  const headers = { ...json, cookie: cookiesOf(session) };
  const pending = (await (await fetch(`${address}/api/releases/pending`, { headers })).json()) as {
    fingerprint: string;
  };
  const made = await fetch(`${address}/api/releases`, {
    method: 'POST',
    headers,
    body: JSON.stringify({ note: 'The heaviest pages', fingerprint: pending.fingerprint }),
  });
  if (made.status !== 201) throw new Error(`the release was refused: ${await made.text()}`);
}

export async function signedIn(address: string, email: string): Promise<string> {
  const answer = await fetch(`${address}/site/sign-in`, {
    method: 'POST',
    redirect: 'manual',
    body: new URLSearchParams({ email, password: demoSitePassword }),
  });
  return cookiesOf(answer);
}

export function cookiesOf(answer: Response): string {
  return answer.headers
    .getSetCookie()
    .map((one) => one.split(';')[0])
    .join('; ');
}
