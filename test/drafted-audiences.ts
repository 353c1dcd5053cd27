import type { Audience } from '../core/audiences/audience.ts';
import type { Condition } from '../core/conditions/condition.ts';
import { attributes } from './random-conditions.ts';

/** An audience that is called by its id unless it has a name. */
export const audience = (id: string, condition: Condition, name = id): Audience => ({
  id,
  name,
  description: '',
  condition,
});
export const settings = {
  name: 'Tarnley Society',
  zone: 'Europe/London',
  locale: 'en-GB',
  postalAddress: '',
  fromAddress: '',
};
/** Attributes that are few enough for random conditions to have to do with each other. */
export const few = attributes.filter(({ id }) =>
  ['tier', 'plan', 'tags', 'visits', 'renewal', 'vip'].includes(id),
);
