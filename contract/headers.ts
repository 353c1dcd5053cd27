/**
 * The header by which an answer says up to which change the server that gave it knew, and by which a request says what the
 * one that answers it has to know: so that everybody finds what they stored, whichever server they come to.
 */
export const positionHeader = 'x-change-position';

/** Names in each request of a window whose it is: the account's email address, percent-encoded. */
export const signedInAsHeader = 'x-signed-in-as';

/** How a request asks for what differs from an earlier answer, and such an answer is written (RFC 3229; jsondiffpatch). */
export const differenceEncoding = 'jsondiffpatch';
