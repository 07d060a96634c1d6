/** What clicks on the footage are for, when they are not for stepping: two points, or two corners. */
export type Picking = 'upright' | 'length' | 'lifter' | null
