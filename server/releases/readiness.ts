import type { Pending } from '../../contract/releases.ts';
import type { Decider } from '../../core/deciding/decide.ts';
import { audiencesOfMenu } from '../../core/deciding/menu.ts';
import type { Snapshot } from '../../core/deciding/release.ts';
import type { Document } from '../../core/documents/document.ts';
import { unreleasable } from '../../core/documents/validate.ts';

type Problems = Pending['problems'];

/** What keeps drafts from being released. What was found of a document is kept until it or something around it changes. */
export class Readiness {
  private around: readonly unknown[] = [];
  private found = new WeakMap<Document, Problems>();

  constructor(private readonly hasPicture: (name: string) => boolean) {}

  problems({ snapshot, catalogue, membership }: Decider): Problems {
    const { documents, audiences, collections = [] } = snapshot;
    const pieces = new Set(documents.filter(({ kind }) => kind === 'shared').map(({ id }) => id));
    const around = [catalogue, audiences, collections, [...pieces].join()];
    if (around.some((one, index) => one !== this.around[index])) this.found = new WeakMap();
    this.around = around;
    const ids = idsOf(audiences);
    const ofCollections = idsOf(collections);
    const surroundings = {
      catalogue,
      hasAudience: (id: string) => ids.has(id),
      hasPicture: this.hasPicture,
      hasCollection: (id: string) => ofCollections.has(id),
      hasPiece: (id: string) => pieces.has(id),
    };
    const inDocuments = documents.flatMap((document) => {
      let found = this.found.get(document);
      if (!found) {
        const { id, kind, name, content } = document;
        found = unreleasable(kind, content, surroundings).map(({ message }) => ({
          document: id,
          name,
          message,
        }));
        this.found.set(document, found);
      }
      return found;
    });
    const inAudiences = audiences.flatMap(({ id, name }) =>
      (membership.problems.get(id) ?? []).slice(0, 1).map(({ message }) => ({ document: id, name, message })),
    );
    return [...inDocuments, ...inAudiences, ...closedProblems(snapshot)];
  }
}

/** What keeps things from being opened by anybody: an audience that is gone, a notice that is closed itself. */
function closedProblems({
  audiences,
  documents,
  collections = [],
  items = [],
  settings,
}: Snapshot): Problems {
  const [known, ofCollections] = [idsOf(audiences), idsOf(collections)];
  const byId = new Map(documents.map((document) => [document.id, document]));
  const isGone = (id: string | null | undefined) => id != null && !known.has(id);
  const gone = 'It is open to an audience that was deleted';
  return [
    ...documents.flatMap(({ id, name, access, collection }) => {
      const problems = isGone(access?.audience) ? [gone] : [];
      const instead = typeof access?.otherwise === 'object' ? access.otherwise.page : undefined;
      const notice = byId.get(instead ?? '');
      if (instead !== undefined && (!notice || notice.access || notice.collection))
        problems.push('The page that the others get is gone, or not open to everybody itself');
      if (collection && !ofCollections.has(collection))
        problems.push('It shows items of a collection that was deleted');
      return problems.map((message) => ({ document: id, name, message }));
    }),
    ...collections
      .filter(({ access }) => isGone(access))
      .map(({ id, name }) => ({ document: id, name, message: gone })),
    ...items
      .filter(({ access }) => isGone(access))
      .map(({ id, title }) => ({ document: id, name: title, message: gone })),
    ...items
      .filter(({ listed }) => isGone(listed?.audience))
      .map(({ id, title }) => ({
        document: id,
        name: title,
        message: 'It is shown in lists to an audience that was deleted',
      })),
    ...(audiencesOfMenu(settings).some(isGone)
      ? [
          {
            document: 'settings',
            name: 'The site’s menu',
            message: 'An entry is for an audience that was deleted',
          },
        ]
      : []),
  ];
}

function idsOf(things: readonly { readonly id: string }[]): ReadonlySet<string> {
  return new Set(things.map(({ id }) => id));
}
