import { expect, it } from 'vitest';
import { demoAttributes, demoAudiences, demoDocuments, demoSettings } from '../../demo/scenario.ts';
import { faceKey } from '../deciding/visibility.ts';
import { analyseDocument } from './document-analysis.ts';

const drafts = { settings: demoSettings, attributes: demoAttributes, audiences: demoAudiences };

it('says who gets each face of the home page, by audiences and by attributes', () => {
  const [home] = demoDocuments;
  if (!home) throw new Error('no home');
  const { faces } = analyseDocument(drafts, home, Date.parse('2026-11-24T12:00:00Z'));
  const said = new Map(faces.map(({ choices, description }) => [faceKey(choices), description]));
  expect(said.get('-1,-1,-1')).toEqual({
    in: [],
    notIn: ['no-tier', 'any-member'],
    facts: ['not signed in', 'membership tier has no value'],
  });
  expect(faces.filter(({ anonymous }) => anonymous).map(({ choices }) => faceKey(choices))).toEqual([
    '-1,-1,-1',
  ]);
  expect(said.get('3,-1,-1')?.facts).toEqual(['signed in', 'membership tier has no value']);
  expect(said.get('0,0,2')).toMatchObject({
    in: ['midnight-members'],
    notIn: [],
    facts: ['membership tier is Midnight'],
  });
  // Who renews soon and comes often is no statement about one attribute after the other.
  expect(said.get('2,0,0')).toMatchObject({
    in: ['dusk-members', 'regulars-near-renewal'],
    facts: undefined,
  });
});
