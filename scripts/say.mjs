/** A failure that is the person's to mend: printed as it stands, without a stack. */
export class Refusal extends Error {}

export function say(text) {
  process.stdout.write(`${text}\n`);
}

/** Runs a script's main function; a Refusal or a full disk ends it with one clear message and exit code 1. */
export async function run(main) {
  try {
    await main();
  } catch (error) {
    if (error?.code === 'ENOSPC')
      process.stderr.write('\nThe disk is full. Free some space and try again.\n');
    else if (error instanceof Refusal) process.stderr.write(`\n${error.message}\n`);
    else process.stderr.write(`\n${error?.stack ?? error}\n`);
    process.exit(1);
  }
}
