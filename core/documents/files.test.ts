import { describe, expect, it } from 'vitest';
import type { Content, Node } from './document.ts';
import { filesIn, withFile } from './files.ts';

const picture = (id: string, file: string | null): Node => ({
  kind: 'picture',
  id,
  picture: 'moon',
  file,
  alt: '',
});
const content = (...body: Node[]): Content => ({ subject: [], preview: [], body });

describe('the files of a content', () => {
  const nested = content(
    picture('a', 'old-file'),
    {
      kind: 'slot',
      id: 's',
      name: 'S',
      variants: [{ id: 'v', audience: 'x', content: [picture('b', 'old-file'), picture('c', 'another')] }],
      otherwise: [
        {
          kind: 'section',
          id: 'n',
          name: '',
          tone: 'plain',
          layout: 'stack',
          children: [{ kind: 'video', id: 'd', file: 'old-file', caption: '' }, picture('e', null)],
        },
      ],
    },
    { kind: 'divider', id: 'f' },
  );

  it('are found in every variant and section', () => {
    expect(filesIn(nested)).toEqual(new Set(['old-file', 'another']));
    expect(filesIn(content())).toEqual(new Set());
  });

  it('are replaced wherever they stand, and nothing else is', () => {
    const after = withFile(nested, 'old-file', 'new-file');
    expect(filesIn(after)).toEqual(new Set(['new-file', 'another']));
    expect(JSON.stringify(after).replaceAll('new-file', 'old-file')).toBe(JSON.stringify(nested));
    expect(withFile(nested, 'not-there', 'new-file')).toBe(nested);
  });
});
