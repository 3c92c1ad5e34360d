import type { BenchName } from '@/benchNames'

/** A page of a bench, or something that is done there, by the names that the trade has for it. */
export interface Page {
  title: string
  also: string
  bench: BenchName
  /** Of the address: which page of the bench, or what is opened on it. */
  query?: Record<string, string>
  kind?: string
}

// prettier-ignore
export const PAGES: Page[] = [
  { title: 'Find strings', kind: 'action', bench: 'circuits', query: { act: 'find-strings' }, also: 'size strings, string sizing, stringing, arrangement of modules, configure inverter, how many modules' },
  { title: 'Strings', bench: 'circuits', also: 'trackers, MPPT, MPP tracker, string plan, string length, voltages, I-V curve' },
  { title: 'Cables and protection', bench: 'circuits', query: { page: 'wiring' }, also: 'cables, wiring, wires, conductors, cross-section, ampacity, voltage drop, cable losses, fuse, fuses, string fuse, circuit-breaker, MCB, RCD, residual current device, surge protection, SPD, DC switch, isolator, disconnector, earthing, grounding, phase balance, lightning protection' },
  { title: 'One-line diagram', bench: 'circuits', query: { page: 'diagram' }, also: 'one-line, single-line diagram, SLD, schematic, wiring diagram, drawing' },
  { title: 'Bill of materials', bench: 'circuits', query: { page: 'bill' }, also: 'BOM, parts list, material list, cost, costs, prices, price, quantities' },
  { title: 'Parts library', bench: 'circuits', query: { page: 'parts' }, also: 'modules, panels, inverters, optimisers, batteries, datasheets, components, database, import parts, add a module' },
  { title: 'Grid connection', bench: 'circuits', query: { page: 'wiring' }, also: 'export limit, feed-in limit, power factor, reactive power, transformer, three-phase, single-phase, grid voltage, voltage rise' },
  { title: 'Optimisers and microinverters', bench: 'circuits', also: 'power optimiser, module-level electronics, MLPE, microinverter' },
  { title: 'Report', bench: 'report', also: 'print, PDF, proposal, quote, document, export, customer report, paper, hand over' },
  { title: 'String sheet', bench: 'circuits', also: 'report of strings, limits, Voc, cold open-circuit voltage, Vmp, checks of strings' },
  { title: 'Horizon', bench: 'sky', also: 'far shading, horizon line, skyline, mountains, terrain' },
  { title: 'Near obstacles', bench: 'sky', also: 'obstacle, near shading, obstruction' },
  { title: 'Sun paths', bench: 'sky', also: 'sun path diagram, solar position, sun chart, declination' },
  { title: 'Photograph of the horizon', kind: 'action', bench: 'sky', also: 'photo, panorama, fisheye, picture of the sky' },
  { title: 'Measured solar access', bench: 'sky', also: 'shade factor, shading factor, shade table, TSRF, site survey' },
  { title: 'Orientation', bench: 'surfaces', also: 'tilt and azimuth, tilt, azimuth, optimal tilt, best tilt, pitch, slope' },
  { title: 'Rows of modules', bench: 'surfaces', also: 'row spacing, row pitch, inter-row shading, self-shading, GCR, ground cover ratio' },
  { title: 'Tracking', bench: 'surfaces', also: 'tracker, single-axis tracking, dual-axis tracking, backtracking, seasonal tilt' },
  { title: 'Building and roofs', bench: 'scene', also: 'house, roof, draw a roof, 3D, three-dimensional, model, gable, hip, dormer' },
  { title: 'Read a file into the scene', kind: 'action', bench: 'scene', query: { act: 'read-scene' }, also: 'import, import scene, LAS, LiDAR, point cloud, glTF, OBJ, DXF, CAD, GeoJSON, CityJSON, GeoTIFF' },
  { title: 'Fill a roof with modules', bench: 'scene', also: 'layout, module layout, fill, auto layout, place modules, setbacks, keep-outs, racks' },
  { title: 'Solar access', bench: 'scene', also: 'shading analysis, shade table, near shading, heat map, TSRF' },
  { title: 'Trees and chimneys', bench: 'scene', also: 'tree, chimney, add an obstacle, neighbour' },
  { title: 'Export of the plan', bench: 'scene', also: 'export, DXF, PDF, SVG, glTF, roof plan, site plan' },
  { title: 'Weather data', bench: 'weather', also: 'meteo, TMY, typical meteorological year, EPW, irradiance data, weather file, import weather, sources, stations, satellite' },
  { title: 'A year from twelve numbers', kind: 'action', bench: 'weather', query: { act: 'twelve-numbers' }, also: 'monthly values, monthly irradiation, monthly means, synthesise' },
  { title: 'Adjustments of the weather', bench: 'weather', also: 'gap filling, lapse rate, climate change, calibration, correction' },
  { title: 'Many years', bench: 'weather', also: 'P50, P90, exceedance, long-term, interannual variability' },
  { title: 'Location', bench: 'site', also: 'place, address, coordinates, map, latitude, longitude, altitude, elevation' },
  { title: 'Own codes of places', kind: 'action', bench: 'site', query: { act: 'place-codes' }, also: 'codes, abbreviations' },
  { title: 'Lay a picture on the map', kind: 'action', bench: 'site', query: { act: 'map-picture' }, also: 'aerial picture, site plan, photograph, drone' },
  { title: 'Demand', bench: 'demand', also: 'consumption, load, use of electricity, load profile, who uses the energy, household, appliances' },
  { title: 'Appliances and places', bench: 'demand', also: 'load list, load schedule, appliance, equipment list, duty, surge, coincident peak' },
  { title: 'Vehicle and hot water', bench: 'demand', also: 'EV, electric vehicle, charging, wallbox, boiler, immersion heater, deferrable load, shiftable load' },
  { title: 'Heating and cooling', bench: 'demand', also: 'heat pump, degree days, air conditioning, COP' },
  { title: 'Duration curve', bench: 'demand', also: 'load duration curve, base load, peak load' },
  { title: 'Battery', bench: 'storage', also: 'storage, accumulator, peak shaving, time of use, backup, outage, state of charge, self-consumption' },
  { title: 'Size of the battery', bench: 'storage', also: 'battery sizing, capacity, how large a battery, payback of a battery' },
  { title: 'Tariff', bench: 'money', also: 'price of electricity, rate, time of use, TOU, feed-in tariff, export price, demand charge, net metering, net billing' },
  { title: 'Bill of electricity', bench: 'money', also: 'electricity bill, monthly bill, saving, demand peaks, bill before and after' },
  { title: 'Purchase and costs', bench: 'money', query: { page: 'costs' }, also: 'investment, CAPEX, OPEX, operation, maintenance, insurance, grant, subsidy, loan, tax relief, depreciation, replacement' },
  { title: 'Cash over the years', bench: 'money', query: { page: 'years' }, also: 'cash flow, NPV, IRR, payback, LCOE, profitability, return on investment, sensitivity' },
  { title: 'Trials', bench: 'trials', also: 'parametric study, grid of runs, batch, optimise, optimisation, search, sweep, many designs, best size, Pareto' },
  { title: 'Map of the runs', bench: 'trials', query: { view: 'map' }, also: 'contours, heat map of two values' },
  { title: 'Front of two aims', bench: 'trials', query: { view: 'front' }, also: 'Pareto front, trade-off' },
  { title: 'Steps of the inputs', bench: 'trials', query: { view: 'steps' }, also: 'sensitivity, tornado, what matters' },
  { title: 'Cascade of losses', bench: 'losses', also: 'loss diagram, energy balance, waterfall, losses, breakdown' },
  { title: 'Soiling', bench: 'losses', also: 'dirt, dust, snow' },
  { title: 'Mismatch', bench: 'losses', also: 'module mismatch' },
  { title: 'Models of the sky and the cell', bench: 'losses', also: 'transposition, Perez, decomposition, cell temperature model, IAM, incidence angle modifier' },
  { title: 'Hourly values', bench: 'hours', also: 'time series, 8760, export CSV, CSV, Parquet, hourly data, plot, chart' },
]
