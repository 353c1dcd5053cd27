import { type Diagram, isOutcome, outcome, outcomeOf } from '../core/analysis/diagrams/diagrams.ts';
import { facesOf, slotDiagrams } from '../core/analysis/faces.ts';
import { states } from '../core/analysis/states.ts';
import { World } from '../core/analysis/world.ts';
import type { Attribute } from '../core/attributes/attribute.ts';
import { Catalogue } from '../core/attributes/catalogue.ts';
import type { Audience } from '../core/audiences/audience.ts';
import { all, any, type Condition, not, test } from '../core/conditions/condition.ts';
import { Membership } from '../core/deciding/membership.ts';
import { faceKey } from '../core/deciding/visibility.ts';
import type { Content, Slot } from '../core/documents/document.ts';
import { audiencesOf } from '../core/documents/uses.ts';
import { Random } from '../demo/random.ts';
import { medianTime, type Result, result, timesFaster } from './result.ts';

const instant = Date.now();
const audienceCount = 40;
/** Pages with a number of slots, and between how many faces the measured one has. */
const sizes = [
  { slots: 5, least: 8, most: 1500 },
  { slots: 12, least: 60, most: 1500 },
  { slots: 30, least: 400, most: 1500 },
] as const;

interface Case {
  content: Content;
  audiences: Audience[];
  attributes: Attribute[];
}

/** A page of slots over 40 audiences on 5 attributes; three slots share two attributes. */
function makeCase(seed: number, slots: number): Case {
  const random = new Random(seed);
  const attributes: Attribute[] = ['a', 'b', 'c', 'd', 'e'].map((id) => ({
    id,
    source: 'contact',
    type: 'choice',
    label: id,
    description: '',
    ordered: true,
    choices: ['1', '2', '3', '4'].map((value) => ({ id: value, label: value })),
  }));
  const part = (): Condition => {
    const { id } = random.pick(attributes as [Attribute, ...Attribute[]]);
    const value = random.pick(['1', '2', '3', '4']);
    const found = test(id, random.pick(['is-one-of', 'at-least', 'at-most']), value);
    return random.chance(0.2) ? not(found) : found;
  };
  const audiences = Array.from({ length: audienceCount }, (_, index): Audience => {
    const two = random.chance(0.5) ? all(part(), part()) : any(part(), part());
    return { id: `x${index}`, name: '', description: '', condition: two };
  });
  const slot = (index: number): Slot => ({
    kind: 'slot',
    id: `s${index}`,
    name: '',
    variants: Array.from({ length: random.between(1, 2) }, (_, at) => ({
      id: `v${index}-${at}`,
      audience: `x${random.between(0, audienceCount - 1)}`,
      content: [],
    })),
    otherwise: [],
  });
  const body = Array.from({ length: slots }, (_, index) => slot(index));
  return { attributes, audiences, content: { subject: [], preview: [], body } };
}

function worldOf({ attributes, audiences, content }: Case): World {
  const catalogue = new Catalogue(attributes, 'UTC');
  const membership = new Membership(catalogue, audiences);
  return new World({
    catalogue,
    membership,
    audiences,
    used: audiencesOf(content),
    channel: 'page',
    instant,
  });
}

/** The peer: slots combined one after another, each time into a diagram of all combinations so far. */
function slotBySlot(content: Content, world: World): Set<string> {
  const { diagrams } = world;
  const found = new Set<string>();
  const slots = slotDiagrams(content, world);
  for (const [state, name] of states.entries()) {
    let combined: Diagram = outcome(0);
    let tuples: number[][] = [[]];
    for (const slot of slots.map((diagram) => diagrams.at(diagram, 0, state))) {
      const next: number[][] = [];
      const pairs = new Map<string, Diagram>();
      const known = new Map<string, Diagram>();
      const pair = (left: Diagram, right: Diagram): Diagram => {
        const key = `${left},${right}`;
        if (isOutcome(left) && isOutcome(right)) {
          const made =
            pairs.get(key) ?? outcome(next.push([...(tuples[outcomeOf(left)] ?? []), outcomeOf(right)]) - 1);
          pairs.set(key, made);
          return made;
        }
        const seen = known.get(key);
        if (seen !== undefined) return seen;
        const level = Math.min(diagrams.levelOf(left), diagrams.levelOf(right));
        const cells = name === 'anonymous' ? 1 : world.widthOf(level);
        const branches = Array.from({ length: cells }, (_, cell) => ({
          end: cell + 1,
          next: pair(diagrams.at(left, level, cell), diagrams.at(right, level, cell)),
        }));
        const made = diagrams.node(level, branches);
        known.set(key, made);
        return made;
      };
      combined = pair(combined, slot);
      tuples = next;
    }
    for (const value of diagrams.outcomes(combined)) found.add(faceKey(tuples[value] ?? []));
  }
  return found;
}

/** All faces of a page, from its conditions on: pages of 5, 12 and 30 slots with up to 1,500 faces. */
export function facesBench(): Result[] {
  return sizes.flatMap(({ slots, least, most }) => {
    for (let seed = 1; seed < 400; seed++) {
      const made = makeCase(seed, slots);
      const { faces, complete } = facesOf(made.content, worldOf(made));
      if (complete && faces.length >= least && faces.length <= most) return measure(made, slots);
    }
    throw new Error(`no case of ${slots} slots was found`);
  });
}

function measure(made: Case, slots: number): Result[] {
  const { faces } = facesOf(made.content, worldOf(made));
  const own = new Set(faces.map((face) => faceKey(face.choices)));
  const other = slotBySlot(made.content, worldOf(made));
  if (own.size !== other.size || [...own].some((key) => !other.has(key)))
    throw new Error(`the peer finds ${other.size} faces, not ${own.size}`);
  const milliseconds = medianTime(() => facesOf(made.content, worldOf(made)), 5);
  const ratio = timesFaster(
    () => facesOf(made.content, worldOf(made)),
    () => slotBySlot(made.content, worldOf(made)),
    5,
  );
  const subject = `${own.size} faces of ${slots} slots, with witnesses`;
  return [
    // A small page leaves little to win: its conditions cost more than its faces.
    result('faces', subject, 'combining slot by slot', ratio, slots === 30 ? 5 : 0.5),
    result(
      'faces',
      `${subject}, in ${milliseconds.toFixed(0)} ms`,
      'the bound of 200 ms',
      200 / milliseconds,
      1,
    ),
  ];
}
