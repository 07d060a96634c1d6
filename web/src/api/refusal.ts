/** Thrown with a sentence that can be shown as it is, and what the server said besides. */
export class Refusal extends Error {
  constructor(
    says: string,
    readonly told?: unknown,
  ) {
    super(says)
  }
}
