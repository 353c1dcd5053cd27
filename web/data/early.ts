import { positionHeader, signedInAsHeader } from '../../contract/headers.ts';

/** Answers that were asked for before the code that shows them was loaded, by their addresses. */
const answers = new Map<string, Promise<Response>>();

/**
 * Sends the first requests of a screen while its code is still loading. Each answer is used once.
 *
 * @param addresses with their query, such as `/api/settings`
 * @param email whose window it is
 * @param position the position in the change log when the page was sent
 */
export function askEarly(addresses: readonly string[], email: string, position: string): void {
  const headers = { [positionHeader]: position, [signedInAsHeader]: encodeURIComponent(email) };
  for (const address of addresses) {
    const answer = fetch(address, { headers });
    // The caller that takes the answer handles the failure.
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

/** Drops the data that nobody took, once something changed that it may not show. Assets don't change. */
export function forgetEarly(): void {
  for (const address of answers.keys()) if (address.startsWith('/api/')) answers.delete(address);
}
