/** What is so for the contacts there are today, and may be otherwise tomorrow. */
export const todayKinds = [
  'nobody-today',
  'nobody-now',
  'only-lacking',
  'same-today',
  'contained-today',
] as const;
