/** Patterns by which the modules of a surface are put into strings. */
export const PATTERNS = ['by row', 'snake', 'by column', 'like shade together'] as const
export type Pattern = (typeof PATTERNS)[number]
