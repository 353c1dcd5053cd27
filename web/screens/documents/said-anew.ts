/** Event that tells merge fields in an editor to render their words again. */
export const saidAnew = 'said-anew';
