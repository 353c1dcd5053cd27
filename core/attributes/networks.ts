import ipaddr from 'ipaddr.js';

/**
 * An IP address in its canonical form (RFC 5952 for v6; a v4 address inside a v6 one as v4), or undefined where the
 * text is none. Forms that only some programs take for an address (`127.1`, `0x7f.0.0.1`) are none.
 *
 * @example readAddress('2001:DB8:0:0::1') // '2001:db8::1'
 */
export function readAddress(text: string): string | undefined {
  if (text.length > 45) return undefined;
  if (ipaddr.IPv4.isValidFourPartDecimal(text)) return ipaddr.IPv4.parse(text).toString();
  if (!text.includes(':') || text.includes('%') || !ipaddr.IPv6.isValid(text)) return undefined;
  const address = ipaddr.IPv6.parse(text);
  return address.isIPv4MappedAddress() ? address.toIPv4Address().toString() : address.toRFC5952String();
}

/** A range of addresses as the numbers of its first and last; v6 numbers begin at 2^32, so that both kinds are apart. */
export interface Network {
  readonly first: bigint;
  readonly last: bigint;
}

const v6Offset = 1n << 32n;

/** A number for a canonical address, in the order of addresses, v4 before v6. */
export function addressNumber(address: string): bigint {
  const parsed = ipaddr.parse(address);
  let number = 0n;
  for (const byte of parsed.toByteArray()) number = (number << 8n) | BigInt(byte);
  return parsed.kind() === 'ipv4' ? number : number + v6Offset;
}

/** The canonical address of a number; the inverse of {@link addressNumber}. Undefined outside all addresses. */
export function addressOfNumber(number: bigint): string | undefined {
  const isV4 = number < v6Offset;
  const plain = isV4 ? number : number - v6Offset;
  const length = isV4 ? 4 : 16;
  if (plain < 0n || plain >= 1n << BigInt(8 * length)) return undefined;
  const bytes = Array.from({ length }, (_, index) =>
    Number((plain >> BigInt(8 * (length - 1 - index))) & 255n),
  );
  return readAddress(ipaddr.fromByteArray(bytes).toString());
}

/**
 * A range in CIDR notation (RFC 4632), v4 or v6, or a single address; undefined where the text is neither, or where
 * bits stand behind the prefix (`203.0.113.7/24`), which is most often a slip.
 */
export function readNetwork(text: string): Network | undefined {
  const [base = '', prefix, ...rest] = text.split('/');
  const address = readAddress(base);
  if (address === undefined || rest.length > 0) return undefined;
  const bits = address.includes(':') ? 128 : 32;
  const first = addressNumber(address);
  if (prefix === undefined) return { first, last: first };
  if (!/^\d{1,3}$/.test(prefix)) return undefined;
  // A v4 address written inside a v6 one (::ffff:10.0.0.0/104) has a prefix of v6, the first 96 bits of which are fixed.
  const length = bits === 32 && base.includes(':') ? Number(prefix) - 96 : Number(prefix);
  if (length < 0 || length > bits) return undefined;
  const size = 1n << BigInt(bits - length);
  const plain = bits === 32 ? first : first - v6Offset;
  return plain % size === 0n ? { first, last: first + size - 1n } : undefined;
}

export function contains(networks: readonly Network[], address: bigint): boolean {
  return networks.some(({ first, last }) => address >= first && address <= last);
}
