/** What a column of a weather table may hold: its name, its colour, and the units that it comes in. */
export interface Role {
  key: string
  name: string
  colour: string
  units: string[]
}
const IRRADIANCE = ['W/m²', 'kW/m²', 'Wh/m²', 'kWh/m²', 'kJ/m²', 'MJ/m²', 'J/cm²', 'J/m²']
export const ROLES: Role[] = [
  { key: 'ghi', name: 'GHI', colour: 'sun', units: IRRADIANCE },
  { key: 'dni', name: 'DNI', colour: 'loss', units: IRRADIANCE },
  { key: 'dhi', name: 'DHI', colour: 'current', units: IRRADIANCE },
  { key: 'beam_horizontal', name: 'beam on the horizontal', colour: 'loss', units: IRRADIANCE },
  { key: 'temperature', name: 'air temperature', colour: 'yield', units: ['°C', '°F', 'K'] },
  { key: 'wind', name: 'wind at 10 m', colour: 'haze', units: ['m/s', 'km/h', 'mph', 'kn'] },
  { key: 'pressure', name: 'air pressure', colour: 'haze', units: ['hPa', 'Pa', 'kPa', 'mbar', 'mmHg'] },
  { key: 'stamp', name: 'date and time', colour: 'ink', units: [] },
  { key: 'date', name: 'date', colour: 'ink', units: [] },
  { key: 'clock', name: 'time of day', colour: 'ink', units: [] },
  { key: 'year', name: 'year', colour: 'ink', units: [] },
  { key: 'month', name: 'month', colour: 'ink', units: [] },
  { key: 'day', name: 'day', colour: 'ink', units: [] },
  { key: 'hour', name: 'hour', colour: 'ink', units: [] },
  { key: 'minute', name: 'minute', colour: 'ink', units: [] },
  { key: 'day of year', name: 'day of the year', colour: 'ink', units: [] },
]
const BY_KEY = new Map(ROLES.map((role) => [role.key, role]))
export const roleOf = (key: string): Role | undefined => BY_KEY.get(key)
