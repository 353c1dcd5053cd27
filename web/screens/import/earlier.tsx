import { Link } from 'react-router';
import { importsSchema } from '../../../contract/imports.ts';
import { useApi } from '../../data/api.ts';
import { count } from '../../data/count.ts';
import { saidInstant } from '../../data/moment.ts';
import { isRunning, statusOf } from './status.ts';

const cell = 'border-b border-line/60 px-3 py-2';

export function EarlierImports() {
  const { data } = useApi('/imports', importsSchema, {
    again: (latest) => (latest?.some(isRunning) ? 1000 : 0),
  });
  if (!data || data.length === 0) return null;
  return (
    <section aria-label="Earlier imports and changes" className="mt-8 max-w-5xl">
      <h2 className="mb-2 text-[18px]">Earlier imports and changes</h2>
      <table className="w-full rounded-md border border-line bg-paper">
        <thead>
          <tr>
            {['What', 'Now', 'Added', 'Changed', 'Left out', 'By', 'When'].map((title) => (
              <th key={title} scope="col" className={`${cell} text-left font-medium`}>
                {title}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {data.map((one) => (
            <tr key={one.id} className="hover:bg-linen/60">
              <td className={cell}>
                <Link to={`/people/import/${one.id}`} className="font-semibold hover:underline">
                  {one.name}
                </Link>
              </td>
              <td className={cell}>{statusOf(one)}</td>
              <td className={cell}>{one.report ? count(one.report.added) : ''}</td>
              <td className={cell}>{one.report ? count(one.report.changed) : ''}</td>
              <td className={cell}>{one.report ? count(one.report.rejected) : ''}</td>
              <td className={`${cell} text-quiet`}>{one.accountName}</td>
              <td className={`${cell} whitespace-nowrap text-quiet`}>
                {saidInstant(one.finishedAt ?? one.createdAt)}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
