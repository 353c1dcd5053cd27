import { importSchema } from '../../../contract/imports.ts';
import { useApi } from '../../data/api.ts';

/** Which import, or change of many, the people that are listed were written by. */
export function CameWith({ id }: { id: string }) {
  const { data } = useApi(`/imports/${id}`, importSchema);
  return (
    <span className="truncate">
      {data?.change ? 'changed by' : 'added or changed by'} “{data?.name ?? `import ${id}`}”
    </span>
  );
}
