import { type ComponentType, createContext, useContext, useState } from 'react';
import { late, useLate } from './late.ts';

/** What was typed before the list was on screen. */
export const TypedBefore = createContext('');
/** Whether Enter was pressed after it: the first of what is found is chosen then. */
export const EnteredBefore = createContext(false);

/**
 * A list to search in that is fetched when it is first shown or before. What is typed until then is searched for as soon as
 * it is here.
 *
 * @param placeholder what its field says while it is empty
 * @param className of its field
 */
export function lateList<Props extends object>(
  load: () => Promise<ComponentType<Props & { typed: string }>>,
  placeholder: (props: Props) => string,
  className: string,
) {
  const list = late(load);
  return function LateList(props: Props) {
    const [typed, setTyped] = useState(useContext(TypedBefore));
    const [isEntered, setIsEntered] = useState(useContext(EnteredBefore));
    const List = useLate(list, true);
    if (List)
      return (
        <EnteredBefore value={isEntered}>
          <List {...props} typed={typed} />
        </EnteredBefore>
      );
    return (
      <input
        // biome-ignore lint/a11y/noAutofocus: it is opened to search in
        autoFocus
        aria-label={placeholder(props)}
        placeholder={placeholder(props)}
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
        onKeyDown={({ key }) => setIsEntered(key === 'Enter')}
        className={`w-full ${className}`}
      />
    );
  };
}
