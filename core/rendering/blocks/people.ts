import { instantOf, readLocalTime } from '../../attributes/calendar.ts';
import type { Catalogue } from '../../attributes/catalogue.ts';
import type { BlockByKind } from '../../documents/blocks/blocks.ts';
import { element, type Markup } from '../markup.ts';
import { linkAddress } from '../text-markup.ts';
import type { Drawing } from './drawing.ts';

export const account: Drawing<BlockByKind['account']> = {
  page: ({ id }, { of }) => [element('div', { class: 'account' }, [accountPoint(of.catalogue)], id)],
};

export const notice: Drawing<BlockByKind['notice']> = {
  page({ id, signedOut, signedIn, address }) {
    const href = linkAddress(address, '');
    const wayIn = href === undefined ? [] : [element('a', { class: 'button', href }, ['See what opens it'])];
    const said: Markup = {
      kind: 'sign-in',
      signedOut: [
        element('p', {}, [signedOut]),
        element('a', { class: 'button', href: '/site/sign-in' }, ['Sign in']),
      ],
      signedIn: [element('p', {}, [signedIn]), ...wayIn],
    };
    return [element('div', { class: 'notice', role: 'note' }, [said], id)];
  },
};

export const countdown: Drawing<BlockByKind['countdown']> = {
  page({ id, until: local, label, over }, { of }) {
    const until = instantOfLocal(local, of.catalogue.zone);
    return [
      element(
        'p',
        {
          class: 'countdown',
          'data-until': new Date(until).toISOString(),
          'data-over': over,
          role: 'timer',
        },
        [
          ...(label === '' ? [] : [element('span', { class: 'countdown-label' }, [label])]),
          element('strong', { class: 'countdown-left' }, [{ kind: 'countdown', until, over }]),
        ],
        id,
      ),
    ];
  },
};

/** Who is signed in with the way out, or the way to sign in. */
export function accountPoint(catalogue: Catalogue): Markup {
  const name: Markup = {
    kind: 'merge',
    merge: catalogue.get('first-name'),
    attribute: 'first-name',
    fallback: 'Your account',
  };
  return {
    kind: 'sign-in',
    signedIn: [
      element('span', { class: 'site-person' }, [name]),
      element('form', { method: 'post', action: '/site/sign-out' }, [
        element('button', { type: 'submit', class: 'site-link' }, ['Sign out']),
      ]),
    ],
    signedOut: [element('a', { href: '/site/sign-in' }, ['Sign in'])],
  };
}

/** A local date and time in a zone as milliseconds since 1970 UTC. */
export function instantOfLocal(local: string, zone: string): number {
  const read = readLocalTime(local);
  return read === undefined ? 0 : instantOf(read, zone);
}
