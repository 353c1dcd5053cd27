import { type Around, aroundEach } from '../deciding/around.ts';
import { everyoneElse } from '../deciding/decide.ts';
import type { Library } from '../deciding/library.ts';
import type { LibraryView } from '../deciding/library-view.ts';
import type { Snapshot } from '../deciding/release.ts';
import { type Document, type Slot, slotsOf } from '../documents/document.ts';
import type { PageOf } from './blocks/drawing.ts';
import { Flat } from './flatten.ts';
import type { JoinedTexts } from './joined-texts.ts';
import type { RenderContext } from './markup.ts';
import { once } from './once.ts';
import {
  pageBody,
  pageBranches,
  pageTitle,
  picturesInView,
  type Surrounding,
  siteDocument,
  siteFrame,
} from './page.ts';

/** One page flattened when it is first wanted, and joined for each viewer. */
export class CompiledPage {
  /** The slots around each of its nodes. */
  readonly around: ReadonlyMap<string, readonly Around[]>;
  readonly slots: readonly Slot[];
  /** What every signed-out viewer gets, once it was made. */
  signedOut: string | undefined;
  /** The place of each slot among its choices. */
  private readonly slotAt: ReadonlyMap<string, number>;
  private readonly html: () => Flat;
  private readonly branches: ReadonlyMap<string, () => Flat[]>;

  /**
   * @param varies whether it asks for anything but who is signed in
   * @param texts the texts of all pages that were made lately
   */
  constructor(
    readonly document: Document,
    of: PageOf,
    surrounding: Surrounding,
    readonly varies: boolean,
    private readonly texts: JoinedTexts,
  ) {
    const { catalogue } = of;
    const { content } = document;
    this.around = aroundEach(content);
    this.slots = slotsOf(content);
    this.slotAt = new Map(this.slots.map(({ id }, index) => [id, index]));
    this.html = once(() => {
      const frame = siteFrame(pageBody(content, { ...of, inView: picturesInView(content) }), {
        ...surrounding,
        current: document.slug,
      });
      return new Flat(
        [siteDocument(titleOf(document, of, surrounding.settings), frame, surrounding)],
        catalogue,
        'html',
      );
    });
    this.branches = new Map(
      this.slots.map((slot) => [
        slot.id,
        once(() => pageBranches(slot, content, of).map((branch) => new Flat(branch, catalogue, 'html'))),
      ]),
    );
  }

  /** Makes everything that is made when it is first wanted. Throws where something can't be shown. */
  make(): void {
    this.html();
    for (const branches of this.branches.values()) branches();
  }

  /** The whole page as one viewer gets it. */
  join(context: RenderContext): string {
    return this.texts.of(['<!doctype html>\n', ...this.html().pieces(context)]);
  }

  /** What one of its slots is for a viewer, without the rest of the page. */
  joinSlot(slot: Slot, context: RenderContext): string {
    const branches = this.branches.get(slot.id)?.() ?? [];
    const choice = this.choiceOf(context.choices)(slot);
    return (choice < 0 ? branches.at(-1) : branches[choice])?.join(context) ?? '';
  }

  /** Which choice of a slot some choices of the whole page make. */
  choiceOf(choices: RenderContext['choices']): (slot: Pick<Slot, 'id'>) => number {
    return ({ id }) => choices[this.slotAt.get(id) ?? -1] ?? everyoneElse;
  }
}

/** The context of rendering a document for a viewer. */
export function contextFor(
  document: string,
  library: Library,
  view: LibraryView,
  mayOpen: RenderContext['mayOpen'],
): RenderContext {
  return {
    facts: view.facts,
    choices: library.decider.decide(document, view.facts),
    links: {},
    instant: view.viewer.instant,
    mayOpen,
    isIn: (audience) => view.contains(audience),
    entries: (list) => view.shown(list),
  };
}

/** What a page is called in the browser's tab. */
function titleOf(
  { content, collection, name, slug }: Document,
  of: Parameters<typeof pageTitle>[1],
  settings: Snapshot['settings'],
): ReturnType<typeof pageTitle> {
  if (collection)
    return [
      { kind: 'merge', merge: of.catalogue.get('item-title'), attribute: 'item-title', fallback: name },
      ` · ${settings.name}`,
    ];
  const own = pageTitle(content, of);
  if (own.length > 0) return own;
  return slug === '' ? [settings.name] : [`${name} · ${settings.name}`];
}
