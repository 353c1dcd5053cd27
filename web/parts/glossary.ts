/** The program's own words, as the interface explains them. The trade's words need no explanation. */
export const glossary = {
  audience:
    'A named group of people, described once by a condition and used in many places: “Midnight members”, “renewing soon”.',
  viewer: 'Whoever a page or an email is decided for: a contact, signed in or not, or somebody anonymous.',
  slot: 'A place on a page or in an email where people get different things. Each person gets the first variant, from the top, whose audience they are in.',
  variant: 'What one audience gets in a slot. Variants are marked A, B, C …',
  'everyone else': 'What people get in a slot when they are in none of its audiences. It can be nothing.',
  face: 'One thing that somebody can get: the page or email with one choice made in every slot.',
  lineup: 'All faces of a page or an email side by side, each with a person who gets it.',
  'viewer bar':
    'The bar at the bottom of the window. It sets whom you look as, the device, the visit and the moment.',
  'shared content': 'Content that is written once and shown on several pages and in several emails.',
  'merge field':
    'A value of the reader’s own within a text, such as their first name, with words for those who have none.',
  'varying words': 'A few words within a sentence that differ by audience.',
  'data rule':
    'Something that is true of every contact, such as “everyone with a plan is a member”. Proofs rely on it.',
  draft: 'What you are working on. Visitors do not see it until it is released.',
  release: 'Everything as it goes live together. Earlier releases are kept, and can be made live again.',
  finding:
    'Something that was proved about an audience or a page: a variant that nobody can get, a gap, an offer that has ended.',
} as const;

export type Term = keyof typeof glossary;
