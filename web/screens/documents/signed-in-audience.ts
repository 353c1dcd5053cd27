import { dequal } from 'dequal';
import { type ListedAudience, storedAudienceSchema } from '../../../contract/audiences.ts';
import { all, test } from '../../../core/conditions/condition.ts';
import { call } from '../../data/api.ts';

/** The audience of who is signed in, made where there is none yet. */
export async function signedInAudience(audiences: readonly ListedAudience[]): Promise<string> {
  const condition = test('signed-in', 'is-yes');
  const known = audiences.find(
    (one) => dequal(one.condition, condition) || dequal(one.condition, all(condition)),
  );
  if (known) return known.id;
  const made = await call('POST', '/audiences', storedAudienceSchema, {
    name: 'Signed in',
    description: 'Everybody who has signed in on the site.',
    condition: all(condition),
  });
  return made.id;
}
