/** How text in a file is coded; what is neither UTF-8 nor UTF-16 is read as Windows-1252, which any bytes are. */
export type Encoding = 'utf-8' | 'utf-16le' | 'utf-16be' | 'windows-1252';

export const encodingWords: { [Each in Encoding]: string } = {
  'utf-8': 'UTF-8',
  'utf-16le': 'UTF-16',
  'utf-16be': 'UTF-16',
  'windows-1252': 'Windows-1252',
};

/**
 * Recognises the encoding of a file from all of its bytes, given piece by piece: UTF-16 by its byte-order mark, UTF-8 by
 * every sequence being well formed (RFC 3629).
 */
export class EncodingDetector {
  private readonly utf8 = new TextDecoder('utf-8', { fatal: true });
  private isUtf8 = true;
  private first: number[] = [];

  add(bytes: Uint8Array): void {
    if (this.first.length < 2) this.first.push(...bytes.subarray(0, 2 - this.first.length));
    if (this.isUtf8) this.decode(bytes, true);
  }

  end(): Encoding {
    const [one, two] = this.first;
    if (one === 0xff && two === 0xfe) return 'utf-16le';
    if (one === 0xfe && two === 0xff) return 'utf-16be';
    if (this.isUtf8) this.decode(new Uint8Array(0), false);
    return this.isUtf8 ? 'utf-8' : 'windows-1252';
  }

  private decode(bytes: Uint8Array, stream: boolean): void {
    try {
      this.utf8.decode(bytes, { stream });
    } catch {
      this.isUtf8 = false;
    }
  }
}

/** The text of a file, piece by piece, without its byte-order mark. */
export async function* decoded(
  pieces: AsyncIterable<Uint8Array>,
  encoding: Encoding,
): AsyncGenerator<string> {
  const decoder = new TextDecoder(encoding);
  for await (const bytes of pieces) {
    const text = decoder.decode(bytes, { stream: true });
    if (text !== '') yield text;
  }
  const rest = decoder.decode();
  if (rest !== '') yield rest;
}
