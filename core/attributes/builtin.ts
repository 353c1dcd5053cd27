import type { Attribute } from './attribute.ts';

/** What every contact has besides the attributes an organisation defines. */
export const contactBasics: readonly Attribute[] = [
  { id: 'first-name', source: 'contact', type: 'text', label: 'first name', description: '' },
  { id: 'last-name', source: 'contact', type: 'text', label: 'last name', description: '' },
  { id: 'email', source: 'contact', type: 'text', label: 'email address', description: '' },
];

/** What is known from how the viewer came in rather than from the contact. */
export const signInAttributes: readonly Attribute[] = [
  {
    id: 'signed-in',
    source: 'sign-in',
    type: 'yes-no',
    label: 'signed in',
    description: 'Whether the visitor has signed in on the site. Nobody is signed in while reading an email.',
  },
];
