import { conversionSchema, type ValueKind } from '../../../contract/attributes.ts';
import { type Attribute, attributeSchema } from '../../../core/attributes/attribute.ts';
import { useApi } from '../../data/api.ts';
import { count } from '../../data/count.ts';
import { Button, TextButton } from '../../parts/button.tsx';
import { kindOfValues, typeWords } from '../../parts/condition/type-words.ts';
import { Dialog } from '../../parts/dialog.tsx';
import { ScrollList } from '../../parts/scroll-list.tsx';

const answerSchema = conversionSchema.extend({ attribute: attributeSchema });

/** Says which values another type keeps and which it loses, before it is chosen. */
export function TypeDialog({
  attribute,
  type,
  onClose,
  onConvert,
}: {
  attribute: Attribute;
  type: ValueKind | undefined;
  onClose: () => void;
  onConvert: (attribute: Attribute) => void;
}) {
  const { data, error } = useApi(type ? `/attributes/${attribute.id}/as/${type}` : null, answerSchema);
  const current = data && kindOfValues(data.attribute) === type ? data : undefined;
  return (
    <Dialog
      open={type !== undefined}
      onClose={onClose}
      title={`Make “${attribute.label}” ${type ? typeWords[type] : ''}?`}
    >
      {error && <p className="text-apple">{error.message}</p>}
      {!current && !error && <p className="text-quiet">Looking at every value…</p>}
      {current && (
        <>
          <p>
            <strong>{count(current.kept)}</strong> values can be read as {type ? typeWords[type] : ''}
            {current.lost > 0 ? (
              <>
                ; <strong className="text-apple">{count(current.lost)}</strong> can’t, and would be gone:
              </>
            ) : (
              '. None is lost.'
            )}
          </p>
          {current.losses.length > 0 && (
            <ScrollList className="mt-2 max-h-56 rounded-md border border-line px-3 py-1">
              {current.losses.map(({ value, count: times }) => (
                <li key={value} className="flex justify-between gap-4 py-0.5">
                  <span className="truncate">{value}</span>
                  <span className="text-quiet">{count(times)}</span>
                </li>
              ))}
            </ScrollList>
          )}
          <div className="mt-4 flex items-center justify-end gap-3">
            <TextButton onClick={onClose}>Keep the current type</TextButton>
            <Button
              look={current.lost > 0 ? 'danger' : 'primary'}
              onClick={() => onConvert(current.attribute)}
            >
              {current.lost > 0 ? `Change it and lose ${count(current.lost)}` : 'Change it'}
            </Button>
          </div>
        </>
      )}
    </Dialog>
  );
}
