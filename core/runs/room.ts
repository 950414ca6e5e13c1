/** How many megabytes all kept runs together may be given: at least, and at most. */
export const [LEAST_BUDGET, MOST_BUDGET] = [10, 20_000]
