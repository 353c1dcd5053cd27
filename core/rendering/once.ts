/** What is made when it is first asked for, and kept. */
export function once<Made>(make: () => Made): () => Made {
  let made: { readonly value: Made } | undefined;
  return () => {
    made ??= { value: make() };
    return made.value;
  };
}
