import { readValue } from '../../attributes/parse.ts';
import { type Item, itemAddress } from '../../collections/collection.ts';
import type { BlockByKind } from '../../documents/blocks/blocks.ts';
import type { Remark } from '../../documents/blocks/items.ts';
import { element, type Markup } from '../markup.ts';
import { sayValue } from '../say-value.ts';
import type { Drawing, PageOf } from './drawing.ts';
import { fileAddress, shape } from './pictures.ts';

export const list: Drawing<BlockByKind['list']> = { page: (block, { of }) => [drawnList(block, of)] };

export const field: Drawing<BlockByKind['field']> = {
  page: ({ attribute, id }, { of }) => drawnField(attribute, id, of),
};

function drawnField(attributeId: string, id: string, of: PageOf): Markup[] {
  const attribute = of.catalogue.get(attributeId);
  const use = of.collections
    .flatMap(({ fields }) => fields)
    .find((field) => field.attribute.id === attributeId)?.use;
  const shown =
    use === 'picture'
      ? element('img', { class: 'picture', src: { file: attributeId }, alt: '' }, [], id)
      : element(
          'div',
          { class: use === 'long-text' ? 'field long-text' : 'field' },
          [
            {
              kind: 'merge',
              merge: attribute,
              attribute: attributeId,
              fallback: '',
              locale: of.locale,
            },
          ],
          id,
        );
  return [{ kind: 'value', has: attributeId, shown: [shown] }];
}

function entryPicture(src: string, of: PageOf): Markup {
  return element('img', { class: 'picture', src, alt: '', ...shape(src, of, of.inView !== undefined) }, []);
}

function drawnList(block: BlockByKind['list'], of: PageOf): Markup {
  const { collections, items } = of;
  const collection = collections.find(({ id }) => id === block.collection);
  const empty = [element('p', { class: 'empty-note' }, [block.empty])];
  if (!collection) return element('div', { class: 'list' }, empty, block.id);
  const picture = collection.fields.find(({ use }) => use === 'picture')?.attribute.id;
  const entries: ReadonlyMap<string, { open: Markup[]; locked: Markup[] }> = new Map(
    items
      .filter((item) => item.collection === collection.id)
      .map((item): [string, { open: Markup[]; locked: Markup[] }] => {
        const file = picture === undefined ? undefined : item.values[picture];
        const words = [
          ...(item.teaser === '' ? [] : [element('p', { class: 'entry-teaser' }, [item.teaser])]),
        ];
        return [
          item.id,
          {
            open: [
              element('li', { class: 'entry' }, [
                ...(typeof file === 'string' && file !== '' ? [entryPicture(fileAddress(file), of)] : []),
                element('a', { class: 'entry-title', href: itemAddress(collection, item) }, [item.title]),
                ...words,
                ...remarksOf(block, item, of),
              ]),
            ],
            // Nothing of the item but what is meant for everybody.
            locked: [
              element('li', { class: 'entry locked' }, [
                element('a', { class: 'entry-title', href: itemAddress(collection, item) }, [item.title]),
                element('span', { class: 'entry-lock' }, ['For members who may open it']),
                ...words,
                ...remarksOf(block, undefined, of),
              ]),
            ],
          },
        ];
      }),
  );
  return element(
    'div',
    { class: 'list' },
    [
      element('ul', { class: `entries layout-${block.layout}` }, [
        { kind: 'list', list: block, entries, empty: [element('li', { class: 'entry empty' }, empty)] },
      ]),
    ],
    block.id,
  );
}

/** What an entry says besides; words alone, and no field, of an item that is locked. */
function remarksOf(
  { remarks }: BlockByKind['list'],
  item: Item | undefined,
  { catalogue, locale }: PageOf,
): Markup[] {
  if (!remarks) return [];
  const said = ({ words, field, look }: Remark): Markup[] => {
    const attribute = field === null || !item ? undefined : catalogue.get(field);
    const value = attribute && readValue(attribute, item?.values[attribute.id]);
    const shown =
      attribute && value !== undefined
        ? sayValue(attribute, value, look ?? undefined, locale, catalogue.zone)
        : '';
    // A sign that stands right before what it is for, as that of a currency does.
    const between = words === '' || shown === '' || /[\p{Sc}\p{Ps}]$/u.test(words) ? '' : ' ';
    const text = words + between + shown;
    return text === '' ? [] : [element('p', { class: 'entry-remark' }, [text])];
  };
  return [{ kind: 'remark', remarks: remarks.variants.map(said), otherwise: said(remarks.otherwise) }];
}
