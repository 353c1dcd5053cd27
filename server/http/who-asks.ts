/** The name of the team member who asks; empty for nobody. */
export function nameOf(request: { session: { account?: { name: string } } }): string {
  return request.session.account?.name ?? '';
}
