/** A thing's outline on the plan: a box that may be turned to the right, or a way of some width. Metres, radians. */
export type Outline =
  | { readonly shape: 'box', readonly at: readonly [number, number], readonly size: readonly [number, number], readonly turn: number }
  | { readonly shape: 'way', readonly points: readonly (readonly [number, number])[], readonly width: number }
