import { ChevronUp, X } from 'lucide-react';
import type { ListedAudience } from '../../../contract/audiences.ts';
import type { Attribute } from '../../../core/attributes/attribute.ts';
import type { ListBlock, Remark } from '../../../core/documents/blocks/items.ts';
import { variantLetter } from '../../../core/documents/document.ts';
import { AudienceButton } from '../../parts/audience-picker.tsx';
import { IconButton } from '../../parts/button.tsx';
import { SelectField } from '../../parts/select-field.tsx';
import { VariantMark } from '../../parts/variant-mark.tsx';
import { LookField } from './look-field.tsx';

type Remarks = NonNullable<ListBlock['remarks']>;

const nothing: Remark = { words: '', field: null };

/** Of another collection none of the fields is there. */
export function withoutFields(remarks: Remarks | undefined): Remarks | undefined {
  return (
    remarks && {
      variants: remarks.variants.map((variant) => ({ ...variant, field: null, look: null })),
      otherwise: { ...remarks.otherwise, field: null, look: null },
    }
  );
}

/** What each entry of a list says besides, by who looks at it. */
export function ListRemarks({
  remarks = { variants: [], otherwise: nothing },
  fields,
  audiences,
  onChange,
}: {
  remarks: Remarks | undefined;
  fields: readonly Attribute[];
  audiences: readonly ListedAudience[];
  onChange: (remarks: Remarks | undefined) => void;
}) {
  const { variants, otherwise } = remarks;
  const change = (next: Remarks) => {
    const isEmpty =
      next.variants.length === 0 && next.otherwise.words === '' && next.otherwise.field === null;
    onChange(isEmpty ? undefined : next);
  };
  const setVariants = (next: Remarks['variants']) => change({ ...remarks, variants: next });
  return (
    <section aria-label="Extra words on entries" className="flex flex-col gap-2">
      <h3 className="font-medium">Extra words on entries</h3>
      <p className="text-quiet">
        Decided for each entry: an audience may ask for the viewer and for the item. First match wins.
      </p>
      <ol className="flex flex-col gap-2">
        {variants.map(({ audience, ...remark }, index) => {
          const name = audiences.find(({ id }) => id === audience)?.name ?? 'a deleted audience';
          return (
            <li key={audience} className="flex flex-col gap-1 rounded-md border border-line bg-paper p-2">
              <span className="flex items-center gap-2">
                <VariantMark choice={index} />
                <span className="min-w-0 flex-1 truncate font-semibold">{name}</span>
                <IconButton
                  label={`Move ${name} up`}
                  disabled={index === 0}
                  onClick={() => {
                    const next = [...variants];
                    next.splice(index - 1, 2, ...next.slice(index - 1, index + 1).reverse());
                    setVariants(next);
                  }}
                >
                  <ChevronUp size={14} />
                </IconButton>
                <IconButton
                  label={`Remove words for ${name}`}
                  onClick={() => setVariants(variants.filter((one) => one.audience !== audience))}
                >
                  <X size={14} />
                </IconButton>
              </span>
              <RemarkFields
                of={variantLetter(index)}
                remark={remark}
                fields={fields}
                onChange={(next) =>
                  setVariants(
                    variants.map((one) => (one.audience === audience ? { audience, ...next } : one)),
                  )
                }
              />
            </li>
          );
        })}
        <li className="flex flex-col gap-1 rounded-md border border-line bg-paper p-2">
          <span className="flex items-center gap-2">
            <VariantMark choice={-1} />
            <span className="font-semibold">Everyone else</span>
          </span>
          <RemarkFields
            of="everyone else"
            remark={otherwise}
            fields={fields}
            onChange={(next) => change({ ...remarks, otherwise: next })}
          />
        </li>
      </ol>
      <AudienceButton
        label="Different words for…"
        audiences={audiences.filter(({ id }) => !variants.some(({ audience }) => audience === id))}
        onChoose={(audience) => setVariants([...variants, { audience, ...otherwise }])}
      />
    </section>
  );
}

function RemarkFields({
  of,
  remark,
  fields,
  onChange,
}: {
  of: string;
  remark: Remark;
  fields: readonly Attribute[];
  onChange: (remark: Remark) => void;
}) {
  return (
    <>
      <input
        aria-label={`Words for ${of}`}
        className="h-9 w-full rounded-md border border-edge/60 bg-paper px-3"
        value={remark.words}
        maxLength={200}
        placeholder="words"
        onChange={(event) => onChange({ ...remark, words: event.target.value })}
      />
      <SelectField
        label="and then"
        value={remark.field ?? ''}
        options={[
          { value: '', label: 'nothing' },
          ...fields.map(({ id, label }) => ({ value: id, label: `its ${label}` })),
        ]}
        onChange={(field) => onChange({ ...remark, field: field || null, look: null })}
      />
      <LookField
        attribute={fields.find(({ id }) => id === remark.field)}
        look={remark.look ?? undefined}
        onChange={(look) => onChange({ ...remark, look })}
      />
    </>
  );
}
