export interface Account {
  readonly email: string;
  readonly name: string;
}

export interface Session {
  readonly account: Account | null;
  /** The account to try the program with; on a demo instance only. */
  readonly demo: { readonly email: string; readonly password: string } | null;
  /** Whether there is no account yet, so that whoever comes makes the first. */
  readonly firstStart: boolean;
}

/** Reads a session as it crosses the wire: by hand, as the sign-in screen comes without what the others need. */
export const sessionSchema = {
  parse(value: unknown): Session {
    const { account, demo, firstStart } = Object(value);
    const named = ['email', 'name'] as const;
    if (
      !isOf(account, named) ||
      !isOf(demo, ['email', 'password'] as const) ||
      typeof firstStart !== 'boolean'
    )
      throw new Error('The answer is not a session.');
    return { account, demo, firstStart };
  },
};

/** Whether something is null or has texts of some names. */
function isOf<Name extends string>(
  value: unknown,
  names: readonly Name[],
): value is Record<Name, string> | null {
  return value === null || names.every((name) => typeof Object(value)[name] === 'string');
}
