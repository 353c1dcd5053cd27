import useSWR, { mutate, type SWRResponse } from 'swr';
import type { RefusalBody } from '../../contract/errors.ts';
import { differenceEncoding, positionHeader, signedInAsHeader } from '../../contract/headers.ts';
import type { Account, Session } from '../../contract/session.ts';
import { forgetEarly, takeEarly } from './early.ts';
import { latestPosition, notePosition } from './position.ts';
import { noteReach } from './reach.ts';

/** What an answer is checked against, such as a schema of Zod. */
export interface Schema<Output> {
  parse(value: unknown): Output;
}

/** A request that the server refused, with its words for the person. */
export class RequestError extends Error {
  constructor(
    readonly status: number,
    readonly body: RefusalBody,
  ) {
    super(body.message);
  }
}

const offline: RefusalBody = {
  message:
    'The server can’t be reached. What you wrote is kept here; it will be sent when the server is back.',
  fields: [],
};

/** Whose window this is, from the first sign-in on. */
let owner: Account | undefined;

/** Says whose window this is: no request is then answered while somebody else is signed in. */
export function setOwner(account: Account | undefined): void {
  owner = account;
}

export function ownerName(): string | undefined {
  return owner?.name;
}

/** Headers of every request: the account of this window, and the latest change it knows of. */
export function ownHeaders(): Record<string, string> {
  return {
    [positionHeader]: String(latestPosition()),
    ...(owner && { [signedInAsHeader]: encodeURIComponent(owner.email) }),
  };
}

type Method = 'GET' | 'POST' | 'PUT' | 'DELETE';

/**
 * One call of the server's API, its answer checked against a schema. Throws RequestError with the server's words;
 * status 0 when it can't be reached.
 */
export async function call<Output>(
  method: Method,
  path: string,
  schema: Schema<Output>,
  body?: unknown,
): Promise<Output> {
  if (method === 'GET') return read(path, schema);
  const response = await send(method, path, body);
  return understood(schema, await response.json());
}

/** What an answer says; throws in words for the person where it is not as it should be, as after an update of the server. */
export function understood<Output>(schema: Schema<Output>, answer: unknown): Output {
  try {
    return schema.parse(answer);
  } catch (cause) {
    console.warn(cause);
    throw new RequestError(200, {
      message:
        'This window can’t show what the server sent. Load the page again: the studio may have been updated.',
      fields: [],
    });
  }
}

interface Known<Output> {
  readonly tag: string;
  readonly schema: Schema<Output>;
  readonly data: Output;
  /** The answer as it came. Differences that the server sends later are applied to it. */
  readonly raw: unknown;
}

/** The latest answers by their paths. */
const answers = new Map<string, Known<unknown>>();
const mostAnswers = 20;

function isReadBy<Output>(known: Known<unknown> | undefined, schema: Schema<Output>): known is Known<Output> {
  return known?.schema === schema;
}

/**
 * Reads data, which does not cross the wire again where it is as it was (RFC 9110, 13.1.2); where little of it differs,
 * only that does (RFC 3229).
 */
async function read<Output>(path: string, schema: Schema<Output>): Promise<Output> {
  const answer = answers.get(path);
  const known = isReadBy(answer, schema) ? answer : undefined;
  // Without the second header the browser says that it takes no answer but a whole one (Fetch standard, 4.6).
  const headers: Record<string, string> = known
    ? { 'if-none-match': known.tag, 'a-im': differenceEncoding, 'cache-control': 'max-age=0' }
    : {};
  const early = takeEarly(`/api${path}`);
  const response = await (early ? answered(early, path) : send('GET', path, undefined, headers));
  const isSame = known !== undefined && response.status === 304;
  const raw = isSame ? known.raw : await wholeOf(response, known?.raw);
  const data = isSame ? known.data : understood(schema, raw);
  const tag = response.headers.get('etag');
  answers.delete(path);
  if (tag !== null) answers.set(path, { tag, schema, data, raw });
  for (const oldest of answers.keys()) {
    if (answers.size <= mostAnswers) break;
    answers.delete(oldest);
  }
  return data;
}

/** What an answer says, which may say only what differs from an earlier one. */
async function wholeOf(response: Response, earlier: unknown): Promise<unknown> {
  const said = await response.json();
  if (response.status !== 226) return said;
  const { patch } = await import('jsondiffpatch');
  return patch(structuredClone(earlier), said);
}

/** A call whose answer has no body. */
export async function callWithoutAnswer(method: Method, path: string, body?: unknown): Promise<void> {
  await send(method, path, body);
}

let isAsking = false;

/** Asks once who is signed in, however many requests were refused at the same time. */
function askSessionAgain(): void {
  if (isAsking) return;
  isAsking = true;
  void mutate('/session').finally(() => {
    isAsking = false;
  });
}

/** The revisions of what was stored from here, by the paths at which it is read. */
const storedHere = new Map<string, number>();

/** Takes what was stored from here as what is read at a path, without asking for it again. */
export function takeStored(path: string, stored: { readonly revision: number }): void {
  storedHere.set(path, stored.revision);
  void mutate(path, stored, { revalidate: false });
}

/** Whether what is read at a path is known here as it was after a change to it. */
export function isKnownHere(path: string, revision: number | null): boolean {
  return revision !== null && (storedHere.get(path) ?? -1) >= revision;
}

/** Takes what is known of the session without asking again. */
export function setSession(session: Session): Promise<unknown> {
  return mutate('/session', session, { revalidate: false });
}

/** Sends one request to the API. */
export async function send(
  method: Method,
  path: string,
  body: unknown,
  headers: Record<string, string> = {},
): Promise<Response> {
  const answer = await answered(
    fetch(`/api${path}`, {
      method,
      headers: {
        ...ownHeaders(),
        ...headers,
        ...(body !== undefined && { 'content-type': 'application/json' }),
      },
      ...(body !== undefined && { body: JSON.stringify(body) }),
    }),
    path,
  );
  if (method !== 'GET') forgetEarly();
  return answer;
}

/** An answer that the server gave; throws RequestError where it refused, or could not be reached. */
export async function answered(request: Promise<Response>, path: string): Promise<Response> {
  const response = await request.catch(() => {
    noteReach(false);
    throw new RequestError(0, offline);
  });
  noteReach(response.status !== 503);
  notePosition(response.headers.get(positionHeader));
  if (response.ok || response.status === 304) return response;
  const body = await response.json().catch(() => undefined);
  const read = await import('../../contract/errors.ts').catch(() => undefined);
  if (response.status === 401 && path !== '/session') askSessionAgain();
  throw new RequestError(
    response.status,
    read?.refusalSchema.safeParse(body).data ?? {
      message: `The server answered ${response.status}.`,
      fields: [],
    },
  );
}

/**
 * Data of the API by its path, kept fresh; `null` waits.
 *
 * @param options `again` says after how many milliseconds to ask again, 0 for never; `first` is shown until the first answer
 */
export function useApi<Output>(
  path: string | null,
  schema: Schema<Output>,
  options: { again?: (data: Output | undefined) => number; first?: Output | undefined } = {},
): SWRResponse<Output, RequestError> {
  return useSWR<Output, RequestError>(path, (key: string) => call('GET', key, schema), {
    revalidateOnFocus: true,
    keepPreviousData: true,
    ...(options.again && { refreshInterval: options.again }),
    ...(options.first && { fallbackData: options.first }),
    shouldRetryOnError: (error) => error.status === 0 || error.status >= 500,
  });
}

/** Reads again all data of the API that is on screen. */
export function readAgain(): void {
  void mutate((key) => typeof key === 'string' && key !== '/session');
}

export function messageOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}
