import { type Attribute, choicesOf } from '../../../core/attributes/attribute.ts';
import { withChoice } from '../../../core/attributes/set-choice.ts';

/** A box for each choice of a set, with the exclusive group it is in. */
export function SetChoices({
  attribute,
  held,
  autoFocus = false,
  onChange,
}: {
  attribute: Attribute;
  held: readonly string[];
  /** Whether the first box takes the focus as it appears. */
  autoFocus?: boolean;
  onChange: (held: string[]) => void;
}) {
  const groups = attribute.type === 'set' ? attribute.exclusiveGroups : [];
  return choicesOf(attribute).map(({ id, label }, index) => (
    <label key={id} className="flex items-baseline gap-2 py-0.5">
      <input
        type="checkbox"
        // biome-ignore lint/a11y/noAutofocus: it appears where the value stood that was chosen to be edited
        autoFocus={autoFocus && index === 0}
        className="accent-leaf"
        checked={held.includes(id)}
        onChange={(event) => onChange(withChoice(attribute, held, id, event.target.checked))}
      />
      {label}
      <span className="text-[12px] text-quiet">
        {groups.find(({ members }) => members.includes(id))?.name}
      </span>
    </label>
  ));
}
