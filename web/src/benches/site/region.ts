/** A site of the region, as the design keeps it. */
export interface RegionSite {
  name?: string
  latitude: number
  longitude: number
  annual_ghi?: number | null
}
/** The sites of a design's region by their keys. */
export const sitesOf = (region: unknown): Record<string, RegionSite> => (region ?? {}) as Record<string, RegionSite>

export interface RegionSpan {
  low: number
  high: number
  darkest: string
  brightest: string
  count: number
}

/** The range of irradiation among the sites that have one. */
export function spanOf(sites: RegionSite[]): RegionSpan | null {
  const known = sites.filter((site) => site.annual_ghi != null).sort((a, b) => a.annual_ghi! - b.annual_ghi!)
  const [first, last] = [known[0], known.at(-1)]
  if (!first || !last) return null
  const name = (site: RegionSite) => site.name || 'a site without name'
  return {
    low: first.annual_ghi!,
    high: last.annual_ghi!,
    darkest: name(first),
    brightest: name(last),
    count: known.length,
  }
}

/** The sites as a GeoJSON layer (RFC 7946). */
export function geoJsonOf(sites: RegionSite[]): string {
  return JSON.stringify(
    {
      type: 'FeatureCollection',
      features: sites.map((site) => ({
        type: 'Feature',
        geometry: { type: 'Point', coordinates: [site.longitude, site.latitude] },
        properties: { name: site.name ?? '', ghi_kwh_m2: site.annual_ghi ?? null },
      })),
    },
    null,
    1,
  )
}
