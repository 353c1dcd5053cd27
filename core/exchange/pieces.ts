/** Text in pieces of some length, as it would come from a file; for tests and for text that is there at once. */
export async function* inPieces(text: string, length = 64 * 1024): AsyncGenerator<string> {
  for (let at = 0; at < text.length; at += length) yield text.slice(at, at + length);
}
