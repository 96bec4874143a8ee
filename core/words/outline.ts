/**
 * Closed contours, each its first place and then cubic Béziers as three places each: x to the right, y down, in heights of
 * capitals, from where the first line begins on its baseline.
 */
export type Outline = readonly number[][]
