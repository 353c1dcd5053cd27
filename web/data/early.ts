import { positionHeader, signedInAsHeader } from '../../contract/headers.ts';

/** Answers that were asked for before the code that shows them was loaded, by their addresses. */
const answers = new Map<string, Promise<Response>>();

/**
 * Sends the first requests of a screen while its code is still loading. Each answer goes to whoever takes it first.
 *
 * @param addresses with their query, such as `/api/settings`
 * @param email whose window it is
 * @param position the last change that the page was told of
 */
export function askEarly(addresses: readonly string[], email: string, position: string): void {
  const headers = { [positionHeader]: position, [signedInAsHeader]: encodeURIComponent(email) };
  for (const address of addresses) {
    const answer = fetch(address, { headers });
    // A failure is reported to whoever takes the answer.
    answer.catch(() => undefined);
    answers.set(address, answer);
  }
}

/** The answer that was asked for early, once; undefined where there is none. */
export function takeEarly(address: string): Promise<Response> | undefined {
  const answer = answers.get(address);
  answers.delete(address);
  return answer;
}

/** Drops the answers that nobody took, once something changed that they may not show. */
export function forgetEarly(): void {
  answers.clear();
}
