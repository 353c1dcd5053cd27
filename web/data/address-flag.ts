import { useSearchParams } from 'react-router';

/** Something that is open or not, by the address: a link or a command can open it on any screen. */
export function useAddressFlag(name: string): [boolean, (isOn: boolean) => void] {
  const [parameters, setParameters] = useSearchParams();
  const set = (isOn: boolean) => {
    setParameters(
      (before) => {
        const next = new URLSearchParams(before);
        if (isOn) next.set(name, '');
        else next.delete(name);
        return next;
      },
      { replace: true },
    );
  };
  return [parameters.has(name), set];
}
