/**
 * Whether everything is done once on as little as there can be, which says nothing about speed, only whether every work
 * still agrees with its peers: `npm run bench -- --smallest`.
 */
export const isSmallest = process.argv.includes('--smallest');

/** How much of something a run takes. */
export function sized<Amount>(whole: Amount, smallest: Amount): Amount {
  return isSmallest ? smallest : whole;
}
