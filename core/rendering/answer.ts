/** What stands at an address for a viewer. */
export type Answer =
  | {
      kind: 'page';
      html: string;
      /** Whether every signed-out viewer gets these very bytes, at any time and from anywhere. */
      sameForAll: boolean;
      /** Whether it is shown in the place of something that this viewer may not open. */
      notice: boolean;
    }
  | { kind: 'sign-in' }
  | { kind: 'closed' }
  | { kind: 'nothing' };
