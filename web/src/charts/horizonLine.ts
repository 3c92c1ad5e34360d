/** A direction of the sky [°]: azimuth clockwise from north, elevation over the level. */
export interface Direction {
  azimuth: number
  elevation: number
}

/** Elevation of a horizon at an azimuth, linear between its points, which rise in azimuth, and closed over north. */
export function heightAt(sorted: Direction[], azimuth: number): number {
  if (!sorted.length) return 0
  const next = sorted.findIndex((p) => p.azimuth >= azimuth)
  const b = sorted[Math.max(next, 0)]!
  const a = sorted.at(next <= 0 ? -1 : next - 1)!
  const span = (b.azimuth - a.azimuth + 360) % 360 || 360
  return a.elevation + ((b.elevation - a.elevation) * ((azimuth - a.azimuth + 360) % 360)) / span
}
