import { scaleLinear } from 'd3-scale'
import { line } from 'd3-shape'

export type Place = [x: number, y: number]
type Bounds = [from: number, to: number]
/** A tenth of a pixel is as fine as lines are drawn. */
const drawn = line().digits(1)

/** From values to places in a picture, linear. */
export const scale = (values: Bounds, places: Bounds): ((value: number) => number) =>
  scaleLinear().domain(values).range(places)

/** A line through places, as an SVG path; it is broken where it is said not to be. */
export const pathThrough = (places: Place[], isThere: (place: number) => boolean = () => true): string =>
  drawn.defined((_, i) => isThere(i))(places) ?? ''

/** Round values between two bounds at which an axis has its lines, about `few` of them. */
export const axisLines = (low: number, high: number, few: number): number[] =>
  scaleLinear().domain([low, high]).ticks(few)
