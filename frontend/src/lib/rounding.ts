/** What sums of seconds, frames and speeds lose to rounding, and comparing them without it. */
export const ROUNDING = 1e-6

export const isLess = (one: number, other: number) => one < other - ROUNDING
