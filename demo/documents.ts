import type { Document, Node } from '../core/documents/document.ts';
import { furtherDocuments } from './further-documents.ts';
import { bold, button, field, first, heading, line, picture, section, slot, text } from './writing.ts';

const guide = (drawing: string, alt: string, title: string, note: string): Node =>
  section(title, 'panel', 'stack', picture(drawing, alt), heading(3, title), text([note]));

const home: Document = {
  id: 'home',
  kind: 'page',
  name: 'Home',
  slug: '',
  content: {
    subject: [],
    preview: [],
    body: [
      slot(
        'Welcome banner',
        [
          [
            'midnight-members',
            [
              section(
                'Welcome, Midnight',
                'accent',
                'stack',
                heading(1, 'The dome is yours tonight, ', first('stargazer')),
                text(['Bring a flask: the roof opens at ten and nobody asks you to leave before dawn.']),
                button('Open your observing plan', '/site/membership'),
              ),
            ],
          ],
          [
            'twilight-members',
            [
              section(
                'Welcome, Twilight',
                'accent',
                'stack',
                heading(1, 'Good evening, ', first('stargazer')),
                text([
                  'The Moon sets before ten tonight. As a Twilight member you may stay on the terrace until midnight.',
                ]),
                button('Book your hour at the dome', '/site/membership'),
              ),
            ],
          ],
          [
            'dusk-members',
            [
              section(
                'Welcome, Dusk',
                'accent',
                'stack',
                heading(1, 'Hello again, ', first('stargazer')),
                text(['Your terrace pass is good for every clear evening until nine.']),
                button('See tonight’s sky', '/site/'),
              ),
            ],
          ],
          [
            'no-tier',
            [
              section(
                'Welcome, no tier',
                'accent',
                'stack',
                heading(1, 'Nice to see you, ', first('stargazer')),
                text(['You have an account already. A membership opens the terrace, and the dome with it.']),
                button('See the memberships', '/site/membership'),
              ),
            ],
          ],
        ],
        [
          section(
            'Welcome, visitor',
            'accent',
            'stack',
            heading(1, 'Come and look up'),
            text(['Quillmere Observatory opens its dome to everybody on Friday and Saturday evenings.']),
            button('Plan a visit', '/site/membership'),
          ),
        ],
      ),
      heading(2, 'Tonight’s sky'),
      slot(
        'Guides',
        [
          [
            'any-member',
            [
              section(
                'Guides for members',
                'plain',
                'row',
                guide(
                  'double-cluster',
                  'Two clusters of stars',
                  'Finding the Double Cluster',
                  '12 minutes · beginners',
                ),
                guide('star-chart', 'A star chart', 'Reading a star chart', '8 minutes · beginners'),
                guide('frost-lens', 'A frosted lens', 'Frost, dew and your lens', '15 minutes · members'),
              ),
            ],
          ],
        ],
        [
          section(
            'Open guides',
            'plain',
            'row',
            guide(
              'double-cluster',
              'Two clusters of stars',
              'Finding the Double Cluster',
              '12 minutes · beginners',
            ),
            guide('star-chart', 'A star chart', 'Reading a star chart', '8 minutes · beginners'),
          ),
        ],
      ),
      slot(
        'Offer card',
        [
          [
            'regulars-near-renewal',
            [
              section(
                'Renew',
                'warm',
                'stack',
                heading(2, 'Renew by ', field('renewal', 'the end of the month'), ' and keep your locker'),
                text(['Your locker and your hour at the dome stay yours when you renew in time.']),
                button('Renew', '/site/membership'),
              ),
            ],
          ],
          [
            'dusk-members',
            [
              section(
                'Move up',
                'warm',
                'stack',
                heading(2, 'Move up to Twilight'),
                text(['Three more hours on the terrace, and one at the dome each month.']),
                button('Compare the tiers', '/site/membership'),
              ),
            ],
          ],
          [
            'any-member',
            [
              section(
                'Bring a friend',
                'warm',
                'stack',
                heading(2, 'Bring a friend'),
                text(['Every member may bring one guest on Thursdays, free of charge.']),
              ),
            ],
          ],
        ],
        [
          section(
            'Try Dusk',
            'warm',
            'stack',
            heading(2, 'Try Dusk for one month'),
            text(['Come as often as the sky is clear. Stop whenever you like.']),
            button('Try Dusk', '/site/membership'),
          ),
        ],
      ),
    ],
  },
};

const membership: Document = {
  id: 'membership',
  kind: 'page',
  name: 'Membership',
  slug: 'membership',
  content: {
    subject: [],
    preview: [],
    body: [
      heading(1, 'Membership'),
      picture('telescope', 'A telescope on a hill at dusk'),
      text(
        [bold('Dusk'), ' — the terrace until nine, on every clear evening.'],
        [bold('Twilight'), ' — the terrace until midnight and an hour at the dome each month.'],
        [bold('Midnight'), ' — the dome whenever it is free, until dawn.'],
      ),
      slot(
        'Way to join',
        [
          [
            'any-member',
            [
              text([
                'You are a member already: ',
                field('tier', 'thank you'),
                '. Thank you for keeping the roof open.',
              ]),
            ],
          ],
          ['no-tier', [button('Add a membership to your account', '/site/membership')]],
        ],
        [button('Sign in to join', '/site/sign-in')],
      ),
    ],
  },
};

const almanac: Document = {
  id: 'monthly-almanac',
  kind: 'email',
  name: 'Monthly almanac',
  slug: 'monthly-almanac',
  content: {
    subject: [
      slot(
        'Subject',
        [['midnight-members', [line('The dome is yours this month, ', first('stargazer'))]]],
        [line('What to look for this month')],
      ),
    ],
    preview: [line('Two planets before breakfast, and a comet if the sky is kind.')],
    body: [
      picture('comet', 'A comet over dark hills'),
      heading(1, 'The monthly almanac'),
      text(
        ['Good evening, ', first('stargazer'), '.'],
        ['Jupiter stands high at ten. Venus and Saturn share the east before sunrise.'],
      ),
      slot(
        'For your tier',
        [
          [
            'midnight-members',
            [
              section(
                'Midnight hours',
                'accent',
                'stack',
                heading(2, 'Your nights at the dome'),
                text(['The long nights are free from the 4th to the 9th. Reply with the one you want.']),
                button('Choose a night', '/site/membership'),
              ),
            ],
          ],
          [
            'twilight-members',
            [
              section(
                'Twilight hours',
                'accent',
                'stack',
                heading(2, 'Your hour at the dome'),
                text(['Twilight hours are open for booking on the 12th and the 19th.']),
                button('Book your hour', '/site/membership'),
              ),
            ],
          ],
          [
            'dusk-members',
            [
              section(
                'Dusk evenings',
                'panel',
                'stack',
                heading(2, 'Clear evenings on the terrace'),
                text(['We open at five all month. Wrap up well.']),
              ),
            ],
          ],
        ],
        [
          section(
            'Visit us',
            'panel',
            'stack',
            heading(2, 'Visit us one evening'),
            text(['Fridays and Saturdays, from six. No booking needed.']),
            button('Plan a visit', '/site/'),
          ),
        ],
      ),
      slot(
        'Family lantern walk',
        [
          [
            'families-nearby',
            [
              section(
                'Lantern walk',
                'warm',
                'stack',
                picture('lanterns', 'People with lanterns on a hill'),
                heading(2, 'Lantern walk for families in ', field('city', 'your town')),
                text(['Saturday the 12th at half past four, from the gate to the dome.']),
              ),
            ],
          ],
        ],
        [],
      ),
    ],
  },
};

/** The pages and the emails that the demo starts with. */
export const demoDocuments: Document[] = [home, membership, almanac, ...furtherDocuments()];
