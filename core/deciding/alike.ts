import { dequal } from 'dequal';

/** Caches a result by a pair of immutable objects, for as long as both are referenced. */
export class KeptOfTwo<One extends object, Other extends object, Result> {
  private readonly known = new WeakMap<One, WeakMap<Other, { readonly result: Result }>>();

  constructor(private readonly work: (one: One, other: Other) => Result) {}

  of(one: One, other: Other): Result {
    let own = this.known.get(one);
    if (!own) {
      own = new WeakMap();
      this.known.set(one, own);
    }
    let found = own.get(other);
    if (!found) {
      found = { result: this.work(one, other) };
      own.set(other, found);
    }
    return found.result;
  }
}

const alike = new KeptOfTwo<object, object, boolean>(dequal);

/** Deep equality of two immutable objects, computed once for each pair. */
export function areAlike(one: object, other: object): boolean {
  return one === other || alike.of(one, other);
}
