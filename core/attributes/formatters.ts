// Making a formatter of the Intl interface (ECMA-402) takes hundreds of times as long as using it, and those of the same
// locale and options are alike: each is made once.

const mostKept = 200;

function kept<Options, Formatter>(
  make: (locale: string, options?: Options) => Formatter,
): (locale: string, options?: Options) => Formatter {
  const known = new Map<string, Formatter>();
  return (locale, options) => {
    const key = options === undefined ? locale : `${locale} ${JSON.stringify(options)}`;
    let formatter = known.get(key);
    if (!formatter) {
      formatter = make(locale, options);
      // Locales and zones come from settings and viewers; whoever sends many must not fill the memory.
      if (known.size >= mostKept) known.clear();
      known.set(key, formatter);
    }
    return formatter;
  };
}

export const numberFormat = kept(
  (locale, options?: Intl.NumberFormatOptions) => new Intl.NumberFormat(locale, options),
);
export const dateFormat = kept(
  (locale, options?: Intl.DateTimeFormatOptions) => new Intl.DateTimeFormat(locale, options),
);
export const listFormat = kept(
  (locale, options?: Intl.ListFormatOptions) => new Intl.ListFormat(locale, options),
);
