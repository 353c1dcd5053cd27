import { addressNumber, type Network, readAddress, readNetwork } from '../attributes/networks.ts';

export interface Place {
  readonly country: string;
  readonly region: string;
}

/**
 * Where addresses are, as far as the ranges for documentation go (RFC 5737, RFC 3849); stands in for a look-up service.
 * The regions are invented.
 */
const ranges: readonly { range: string; place: Place }[] = [
  { range: '192.0.2.0/25', place: { country: 'GB', region: 'Quillshire' } },
  { range: '192.0.2.128/25', place: { country: 'GB', region: 'Northmere' } },
  { range: '198.51.100.0/25', place: { country: 'DE', region: 'Sternau' } },
  { range: '198.51.100.128/25', place: { country: 'FR', region: 'Val-des-Astres' } },
  { range: '203.0.113.0/25', place: { country: 'ES', region: 'Sierra Clara' } },
  { range: '203.0.113.128/25', place: { country: 'US', region: 'New Larkhaven' } },
  { range: '2001:db8::/33', place: { country: 'GB', region: 'Quillshire' } },
  { range: '2001:db8:8000::/33', place: { country: 'DE', region: 'Sternau' } },
];

const table: readonly { network: Network; place: Place }[] = ranges.flatMap(({ range, place }) => {
  const network = readNetwork(range);
  return network ? [{ network, place }] : [];
});

/** Where an address is; undefined where the table does not know it. */
export function placeOf(address: string): Place | undefined {
  const canonical = readAddress(address);
  if (canonical === undefined) return undefined;
  const number = addressNumber(canonical);
  return table.find(({ network }) => number >= network.first && number <= network.last)?.place;
}
