/** Why a request is refused. Codes are for programs; reasons tell nothing of what lies outside of the project. */
export class Refusal extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    reason: string,
    /** What goes with it. */
    readonly more: object = {},
  ) {
    super(reason);
  }
}
