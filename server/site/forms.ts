import { type Request, type Response, Router, urlencoded } from 'express';
import { ipKeyGenerator } from 'express-rate-limit';
import { type Attribute, choicesOf, type Value } from '../../core/attributes/attribute.ts';
import { parseValue } from '../../core/attributes/parse.ts';
import type { FormBlock } from '../../core/documents/blocks/people.ts';
import { addressKey } from '../../core/exchange/address-key.ts';
import { decoyField } from '../../core/rendering/blocks/form.ts';
import { element } from '../../core/rendering/markup.ts';
import { sameOriginOnly } from '../http/guards.ts';
import { addressProblem } from '../people/address-problem.ts';
import {
  contactKnownBy,
  contactRow,
  insertContact,
  recordChange,
  updateContact,
} from '../people/contact-rows.ts';
import { displayName } from '../people/display-name.ts';
import type { ContactRow } from '../people/rows.ts';
import { inTransaction, inTransactionAmongOthers, type Transaction } from '../store/transaction.ts';
import { answersCookie, answersFor } from '../visitors/answers.ts';
import { visitorOf } from '../visitors/visitor.ts';
import { limited } from './limits.ts';
import { sendNotFound, sendOwnPage } from './own-pages.ts';
import { contactOf, type Site, viewerOf } from './site.ts';

const hour = 3_600_000;
/** How often answers are taken under one address in an hour. */
const mostByAddress = 30;

type Answers = Map<string, Value>;
type Problems = { label: string; message: string }[];

/** Forms of pages: answers are stored before anything is answered, so that the next page is decided with them. */
export function formsRouter(site: Site): Router {
  const router = Router({ caseSensitive: true, strict: true });
  // Whoever is known is held back by nothing but themselves.
  const byNetwork = limited(
    site.counts,
    'form by network',
    60,
    (request) => ipKeyGenerator(request.ip ?? ''),
    (request) => contactOf(site, request) !== undefined,
  );
  router.post(
    '/:document/:block',
    sameOriginOnly,
    urlencoded({ extended: false, limit: '100kb', parameterLimit: 500 }),
    byNetwork,
    async (request, response) => {
      const viewer = await viewerOf(site, request, response);
      const { document = '', block = '' } = request.params;
      const compiled = site.live.current?.compiled;
      const found = compiled?.parts.form(String(document), String(block), viewer);
      if (!compiled || !found) return sendNotFound(site, response, viewer);
      const { next } = found.form;
      const onward = () =>
        response.redirect(303, /^\/site\/[\w/-]*$/.test(next) ? next : `/site/${found.slug}`);
      // People don't see this field; whoever fills it is told nothing of it.
      if (Object(request.body)[decoyField]) return onward();
      const { answers, problems } = read(found.form, request, (id) => compiled.decider.catalogue.get(id));
      if (problems.length > 0) return sendProblems(site, response, problems);
      const refused = await store(site, request, response, found.form, answers);
      if (refused) return sendProblems(site, response, [refused]);
      onward();
    },
  );
  return router;
}

function read(
  form: FormBlock,
  request: Request,
  attributeOf: (id: string) => Attribute | undefined,
): { answers: Answers; problems: Problems } {
  const answers: Answers = new Map();
  const problems: Problems = [];
  const body: { [name: string]: unknown } = Object(request.body);
  for (const { attribute: id, label, required, only } of form.fields) {
    const attribute = attributeOf(id);
    if (attribute?.source !== 'contact') continue;
    const given = [body[id]]
      .flat()
      .flatMap((value) => (typeof value === 'string' && value !== '' ? [value] : []));
    const named = label || attribute.label;
    if (given.length === 0) {
      if (required) problems.push({ label: named, message: 'needs an answer' });
      continue;
    }
    const known = new Set(
      choicesOf(attribute)
        .map((choice) => choice.id)
        .filter((one) => only?.includes(one) ?? true),
    );
    if (known.size > 0) {
      if (given.some((one) => !known.has(one)))
        problems.push({ label: named, message: 'is not one of the choices' });
      else answers.set(id, attribute.type === 'set' ? [...new Set(given)] : (given[0] ?? ''));
      continue;
    }
    const parsed = parseValue(attribute, given[0] ?? '');
    if (!parsed.ok) problems.push({ label: named, message: parsed.reason });
    else if (parsed.value !== undefined) answers.set(id, parsed.value);
  }
  return { answers, problems };
}

/**
 * Stores the answers. A visitor who isn’t known is found by the email address they give: a new address adds a contact; of
 * a contact who is there already, only missing values are filled in, because anybody can type an address. Nobody is
 * signed in by it. Both get the same response, cookie and limits, so nothing tells whether the address was known.
 *
 * @returns what is wrong, by the label of its field; undefined once the answers are stored
 */
async function store(
  site: Site,
  request: Request,
  response: Response,
  { fields }: FormBlock,
  answers: Answers,
): Promise<Problems[number] | undefined> {
  const contact = contactOf(site, request);
  const before = site.answers.open(visitorOf(request).cookies[answersCookie], Date.now());
  const email = answers.get('email') ?? before?.email;
  answers.delete('email');
  if (contact) {
    await inTransaction(async (transaction) => {
      const row = await contactRow(contact.id, transaction);
      if (row) await fill(row, answers, true, site, transaction);
    });
    return undefined;
  }
  const label = fields.find(({ attribute }) => attribute === 'email')?.label || 'Email address';
  if (typeof email !== 'string') return { label, message: 'is needed, so that your answers can be kept' };
  const problem = addressProblem(email);
  if (problem !== undefined) return { label, message: problem };
  if ((await site.counts.add(`form by address ${addressKey(email)}`, hour)).hits > mostByAddress)
    return { label, message: 'was used too often in the last hour. Try again later.' };
  const { id, isOwn } = await inTransactionAmongOthers(async (transaction) => {
    const there = await contactKnownBy({ email }, transaction);
    // Locked only where there is a row: locks on a gap would keep each other from filling it.
    const known = there && (await contactRow(there.id, transaction));
    const created = !known;
    const row = known ?? (await insertContact({ email, name: email, values: {} }, transaction));
    if (created)
      await recordChange(
        { contactId: row.id, kind: 'added', source: 'form', accountName: 'the site', fields: {} },
        transaction,
      );
    const isOwn = created || row.id === before?.made;
    await fill(row, answers, isOwn, site, transaction);
    return { id: row.id, isOwn };
  });
  // One and the same for who is new and for who was there, as anybody can type an address.
  const values = { ...(before?.email === email ? before.values : {}), ...Object.fromEntries(answers) };
  response.cookie(
    answersCookie,
    site.answers.seal({ email, values, made: isOwn ? id : undefined }, Date.now()),
    {
      path: '/site',
      httpOnly: true,
      sameSite: 'lax',
      secure: request.secure,
      maxAge: answersFor * 1000,
    },
  );
  return undefined;
}

async function fill(
  row: ContactRow,
  answers: Answers,
  mayReplace: boolean,
  site: Site,
  transaction: Transaction,
): Promise<void> {
  const catalogue = site.live.current?.compiled.decider.catalogue;
  const values = { ...row.values };
  const fields: { [id: string]: [unknown, unknown] } = {};
  for (const [id, answer] of answers) {
    const before = values[id] ?? null;
    if (before !== null && !mayReplace) continue;
    const attribute = catalogue?.get(id);
    const now =
      attribute?.type === 'set' && Array.isArray(answer)
        ? joined(attribute, Array.isArray(before) ? before : [], answer)
        : answer;
    if (JSON.stringify(before) === JSON.stringify(now)) continue;
    values[id] = now;
    fields[id] = [before, now];
  }
  if (Object.keys(fields).length === 0) return;
  await updateContact(row, { values, name: displayName(values, row.email) }, transaction);
  await recordChange(
    { contactId: row.id, kind: 'changed', source: 'form', accountName: 'the site', fields },
    transaction,
  );
}

/** What is held and what came: of an exclusive group what came stands alone. */
function joined(
  attribute: Extract<Attribute, { type: 'set' }>,
  before: readonly unknown[],
  came: readonly string[],
): string[] {
  const cleared = new Set(
    attribute.exclusiveGroups
      .filter(({ members }) => members.some((member) => came.includes(member)))
      .flatMap(({ members }) => members),
  );
  const kept = before.map(String).filter((value) => !cleared.has(value) && !came.includes(value));
  // Two of one group at once can't be meant: the first stands.
  const once = came.filter(
    (value, at) =>
      !attribute.exclusiveGroups.some(
        ({ members }) => members.includes(value) && came.slice(0, at).some((one) => members.includes(one)),
      ),
  );
  return [...kept, ...once];
}

function sendProblems(site: Site, response: Response, problems: Problems): void {
  sendOwnPage(site, response, 422, 'Not sent', [
    element('h1', { class: 'heading' }, ['Nothing was sent yet']),
    element(
      'ul',
      { role: 'alert' },
      problems.map(({ label, message }) => element('li', {}, [`${label} ${message}`])),
    ),
    element('p', {}, ['Go back in your browser; what you wrote is still there.']),
  ]);
}
