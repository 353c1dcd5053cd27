import type { LoggedChange, LoggedKind } from '../../contract/changes.ts';

/** Something that changes; of settings, which one. */
type Part = Exclude<LoggedKind, 'setting'> | 'site settings' | 'live release' | 'crm settings';

const drafts: readonly Part[] = [
  'attribute',
  'audience',
  'collection',
  'document',
  'fact',
  'item',
  'site settings',
];
const people: readonly Part[] = ['attribute', 'audience', 'contact', 'fact', 'site settings'];

const settings: { readonly [key: string]: Part } = {
  site: 'site settings',
  'live-release': 'live release',
  crm: 'crm settings',
  'crm-state': 'crm settings',
  'crm-stand-in': 'crm settings',
};

/**
 * Of what the data at each path is made. The first pattern that fits counts. Where it has a group, that is the id of the
 * one thing of the first kind that is shown; changes of others of that kind don't matter.
 */
const made: readonly (readonly [pattern: RegExp, of: readonly Part[]])[] = [
  [/^\/session$/, []],
  [/^\/pictures$/, ['file']],
  [/^\/files$/, ['file', 'document', 'collection', 'item']],
  [/^\/team$/, ['account']],
  [/^\/api-keys$/, ['api-key']],
  [/^\/embedding$/, ['live release', 'api-key']],
  [/^\/attributes$/, ['attribute', 'collection']],
  [/^\/attributes\/[^/]+\/set-aside$/, ['set-aside', 'contact', 'item']],
  [/^\/attributes\//, [...drafts, 'contact', 'crm settings']],
  [/^\/set-aside$/, ['set-aside']],
  [
    /^\/audiences$/,
    // Of documents it shows which use them.
    [...drafts.filter((part) => part !== 'document'), 'use', 'contact', 'live release'],
  ],
  [/^\/audiences\/([^/]+)\/versions$/, ['audience']],
  [/^\/contacts\/reading$/, []],
  [/^\/contacts\/(\d+)/, ['contact', 'attribute', 'live release', 'send', 'import']],
  [/^\/contacts\?/, people],
  [/^\/facts$/, people],
  [/^\/imports\/([^/]+)$/, ['import', 'attribute', 'job']],
  [/^\/imports$/, ['import', 'job']],
  [/^\/crm/, ['crm settings', 'job']],
  [/^\/documents\/shared$/, ['document']],
  [/^\/documents\/([^/]+)$/, ['document']],
  [/^\/documents$/, ['document']],
  [/^\/collections\/([^/]+)\/items$/, ['collection', 'item']],
  [/^\/collections$/, ['collection', 'item', 'document', 'audience']],
  [/^\/library$/, ['collection', 'item', 'item-views']],
  [/^\/releases\/pending$/, [...drafts, 'contact', 'live release']],
  [/^\/releases\/(?:\d+\/)?impact$/, [...drafts, 'live release', 'job']],
  [/^\/releases/, ['release', 'live release']],
  [/^\/settings$/, ['site settings']],
  [/^\/mailbox/, ['message']],
  [/^\/sends\/(\d+)$/, ['send', 'job']],
  [/^\/jobs$/, ['job']],
];

/**
 * Whether the data at a path of the API may be other than before some changes.
 *
 * @param isKnown whether the one thing that is shown at a path is known as it was after a revision
 */
export function isMadeOf(
  path: string,
  changes: readonly LoggedChange[],
  isKnown: (path: string, revision: number | null) => boolean = () => false,
): boolean {
  for (const [pattern, parts] of made) {
    const [found, shown] = pattern.exec(path) ?? [];
    if (found === undefined) continue;
    return changes.some((change) => {
      if (shown !== undefined && found === path && change.kind === parts[0] && isKnown(path, change.revision))
        return false;
      const changed = partsOf(change);
      if (changed === undefined) return true;
      return changed.some((part) => {
        if (!parts.includes(part)) return false;
        const isOther =
          part === parts[0] && shown !== undefined && change.ids?.includes(decode(shown)) === false;
        return !isOther;
      });
    });
  }
  // Whatever it is, it is not known to stay.
  return true;
}

/** What changed; undefined where it may be anything of settings. */
function partsOf({ kind, ids }: LoggedChange): Part[] | undefined {
  if (kind !== 'setting') return [kind];
  return ids?.flatMap((id) => settings[id] ?? []);
}

function decode(part: string): string {
  try {
    return decodeURIComponent(part);
  } catch {
    return part;
  }
}
