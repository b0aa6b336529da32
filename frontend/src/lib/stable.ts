/** The old list when it has the same parts as the new one: whoever watches it then has nothing to do. */
export const stable = <T>(old: T[] | undefined, next: T[]): T[] =>
  old?.length === next.length && old.every((part, index) => part === next[index]) ? old : next
