/** What the board does not have or an export does not drive. */
export interface Missing { readonly device: string, readonly why: string }

export interface Parts {
  /** A file that makes the robot's parts, and how they are reached. */
  readonly hardware: string
  readonly missing: readonly Missing[]
}
