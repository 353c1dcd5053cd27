/** Where a block is on the canvas, in pixels from the frame's top left corner. */
export interface Place {
  readonly left: number;
  readonly top: number;
  readonly width: number;
  readonly height: number;
}

/** Where something is put: right before or after a block. */
export type Beside = { readonly before: string } | { readonly after: string };

/** A place to put a block, and the line that shows it. */
export interface Landing {
  readonly to: Beside;
  readonly line: Place;
}

/** How far from the edge of a block a place beside it is still meant, in pixels. */
const reach = 14;
const thickness = 3;

/** The place of a block on the canvas; undefined where it is not shown. */
export function placeOf(frame: HTMLElement, block: string): Place | undefined {
  const selector = `[data-block="${CSS.escape(block)}"]`;
  for (const root of rootsIn(frame)) {
    const element = root.querySelector(selector);
    if (element) return rounded(frame, element.getBoundingClientRect());
  }
  return undefined;
}

/**
 * Where a block that is dragged would land: before or after the block under the pointer, whichever edge is nearer. Blocks that
 * stand beside each other have a left and a right edge, others a top and a bottom one.
 *
 * @param isBlock whether something can be put beside a block, by its id
 */
export function landingAt(
  frame: HTMLElement,
  point: { readonly x: number; readonly y: number },
  isBlock: (id: string) => boolean,
): Landing | undefined {
  const element = blockAt(frame, point.x, point.y, isBlock);
  if (!element) return undefined;
  const rect = element.getBoundingClientRect();
  const isBeside = standsBeside(element, rect);
  const isBefore = isBeside ? point.x < rect.left + rect.width / 2 : point.y < rect.top + rect.height / 2;
  return landing(frame, element, rect, isBeside, isBefore);
}

/** The gap between blocks that the pointer is at; undefined where it is inside a block. */
export function gapAt(
  frame: HTMLElement,
  point: { readonly x: number; readonly y: number },
  isBlock: (id: string) => boolean,
): Landing | undefined {
  const above = blockAt(frame, point.x, point.y - reach, isBlock);
  const aboveRect = above?.getBoundingClientRect();
  if (above && aboveRect && Math.abs(point.y - aboveRect.bottom) <= reach)
    return landing(frame, above, aboveRect, false, false);
  const below = blockAt(frame, point.x, point.y + reach, isBlock);
  const belowRect = below?.getBoundingClientRect();
  return below && belowRect && Math.abs(point.y - belowRect.top) <= reach
    ? landing(frame, below, belowRect, false, true)
    : undefined;
}

function landing(
  frame: HTMLElement,
  element: Element,
  rect: DOMRect,
  isBeside: boolean,
  isBefore: boolean,
): Landing {
  const id = element.getAttribute('data-block') ?? '';
  const { left, top, width, height } = rounded(frame, rect);
  const line = isBeside
    ? { left: isBefore ? left - thickness : left + width, top, width: thickness, height }
    : { left, top: isBefore ? top - thickness : top + height, width, height: thickness };
  return { to: isBefore ? { before: id } : { after: id }, line };
}

/** The innermost block at a point of the window that something can be put beside. */
function blockAt(
  frame: HTMLElement,
  x: number,
  y: number,
  isBlock: (id: string) => boolean,
): Element | undefined {
  for (const root of rootsIn(frame)) {
    let element = root.elementFromPoint(x, y)?.closest('[data-block]');
    while (element) {
      if (isBlock(element.getAttribute('data-block') ?? '')) return element;
      element = element.parentElement?.closest('[data-block]');
    }
  }
  return undefined;
}

/** Whether a block stands beside another of the same holder. */
function standsBeside(element: Element, rect: DOMRect): boolean {
  const siblings = [...(element.parentElement?.children ?? [])].filter(
    (other) => other !== element && other.hasAttribute('data-block'),
  );
  return siblings.some((other) => {
    const { top, bottom, left, right } = other.getBoundingClientRect();
    return top < rect.bottom && bottom > rect.top && (left >= rect.right || right <= rect.left);
  });
}

function rootsIn(frame: HTMLElement): ShadowRoot[] {
  return [...frame.children].flatMap(({ shadowRoot }) => shadowRoot ?? []);
}

function rounded(frame: HTMLElement, { left, top, width, height }: DOMRect): Place {
  const origin = frame.getBoundingClientRect();
  return {
    left: Math.round(left - origin.left),
    top: Math.round(top - origin.top),
    width: Math.round(width),
    height: Math.round(height),
  };
}
