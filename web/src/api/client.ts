import type { components as designComponents } from './design'
import { expandedScene } from './expandedScene'
import type { components } from './schema'

export type { SceneAnswer } from './expandedScene'

type Shapes = components['schemas']
type DesignShapes = designComponents['schemas']
export type SchemeAnswer = Shapes['SchemeAnswer']
export type Evaluation = Shapes['Evaluation']
export type Headline = Shapes['Headline']
export type CascadeAnswer = Shapes['CascadeAnswer']
export type CascadeLine = Shapes['CascadeLine']
export type CheckAnswer = Shapes['CheckAnswer']
export type Bench = Shapes['Bench']
export type ProjectAnswer = Shapes['ProjectAnswer']
export type ProjectCard = Shapes['ProjectCard']
export type FileGuess = Shapes['FileGuessAnswer']
export type PlaceAnswer = Shapes['PlaceAnswer']
export type FoundAnswer = Shapes['FoundAnswer']
export type PartsAnswer = Shapes['PartsAnswer']
export type ModuleLine = Shapes['ModuleLine']
export type InverterLine = Shapes['InverterLine']
export type WeatherAnswer = Shapes['WeatherAnswer']
export type DoubtAnswer = Shapes['DoubtAnswer']
export type ReadingAnswer = Shapes['ReadingAnswer']
export type Reading = Shapes['Reading']
export type ColumnReading = Shapes['ColumnReading']
export type SynthesisRequest = Shapes['SynthesisRequest']
export type MonthsAnswer = Shapes['MonthsAnswer']
export type FactWorking = Shapes['FactWorking']
export type WorkingAnswer = Shapes['WorkingAnswer']
export type MomentAnswer = Shapes['MomentAnswer']
export type VerbLine = Shapes['VerbLine']
export type QuestionLine = Shapes['QuestionLine']
/** What is asked of the finder and of the estimate. */
export interface Questions {
  'find-strings': FindRequest
  estimate: EstimateRequest
}
export type QuantityLine = Shapes['QuantityLine']
export type FigureLine = Shapes['FigureLine']
export type FiguresAnswer = Shapes['FiguresAnswer']
export type Paragraph = Shapes['Paragraph']
export type BriefRun = Shapes['Run']
export type ElevationAnswer = Shapes['ElevationAnswer']
export type OrientationAnswer = Shapes['OrientationAnswer']
export type PlanesAnswer = Shapes['PlanesAnswer']
export type Unused = Shapes['Unused']
export type ObstaclesAnswer = Shapes['ObstaclesAnswer']
export type HorizonEffectAnswer = Shapes['HorizonEffectAnswer']
export type SunPathsAnswer = Shapes['SunPathsAnswer']
export type ModulePage = Shapes['ModulePage']
export type ImportAnswer = Shapes['ImportAnswer']
export type FindRequest = Shapes['FindRequest']
export type FoundStrings = Shapes['FoundStrings']
export type ProposalLine = Shapes['ProposalLine']
export type CurveAnswer = Shapes['CurveAnswer']
export type VoltageAnswer = Shapes['VoltageAnswer']
export type WiringAnswer = Shapes['WiringAnswer']
export type RunLine = Shapes['RunLine']
export type ProtectionLine = Shapes['ProtectionLine']
export type DiagramAnswer = Shapes['DiagramAnswer']
export type DrawnMark = Shapes['DrawnMark']
export type BillAnswer = Shapes['BillAnswer']
export type BillRow = Shapes['BillRow']
export type InverterPage = Shapes['InverterPage']
export type CurveFitAnswer = Shapes['CurveFitAnswer']
export type TypedAnswer = Shapes['TypedAnswer']
export type Preference = Shapes['Preference']
export type ShadeAnswer = Shapes['ShadeAnswer']
export type LightTakers = Shapes['LightTakers']
export type RoomAnswer = Shapes['RoomAnswer']
/** What can be done to a design by name, with the arguments of each. */
export type Acts = DesignShapes['Acts']
export type SceneReading = Shapes['SceneReading']
export type SceneObstacles = Shapes['SceneObstacles']
export type PreviewAnswer = Shapes['PreviewAnswer']
export type EstimateRequest = Shapes['EstimateRequest']
export type EstimateAnswer = Shapes['EstimateAnswer']
export type CodeLine = Shapes['CodeLine']
export type CodeTable = Shapes['CodeTable']
export type TerrainHorizon = Shapes['TerrainHorizon']
export type LayerSite = Shapes['LayerSite']
export type PictureAnswer = Shapes['PictureAnswer']
export type SourceLine = Shapes['SourceLine']
export type SourcesAnswer = Shapes['SourcesAnswer']
export type SourceRequest = Shapes['SourceRequest']
export type WeatherComparison = Shapes['WeatherComparison']
export type YearsResult = Shapes['YearsResult']
export type DemandAnswer = Shapes['DemandAnswer']
export type DemandKinds = Shapes['DemandKinds']
export type DemandSource = Shapes['DemandSourceLine']
export type StorageAnswer = Shapes['StorageAnswer']
export type OffGridAnswer = Shapes['OffGridAnswer']
export type StorageDay = Shapes['StorageDay']
export type DayFlows = Shapes['DayFlows']
export type MoneyAnswer = Shapes['MoneyAnswer']
export type BillYear = Shapes['BillYear']
export type PriceAnswer = Shapes['PriceAnswer']
export type WeekAnswer = Shapes['WeekAnswer']
export type UseReading = Shapes['UseReading']
export type UseReadingAnswer = Shapes['UseReadingAnswer']
export type UseAnswer = Shapes['UseAnswer']
export type TariffLine = Shapes['TariffLine']
export type FigureText = Shapes['FigureText']
export type JobAnswer = Shapes['JobAnswer']
/** Long work on a scheme by its kind, each with what it finds. */
export interface SchemeJobs {
  years: Shapes['YearsResultJob']
  'find-strings': Shapes['FoundStringsJob']
  'obstacle-costs': Shapes['SceneObstaclesJob']
}

export interface Finding {
  pointer: string
  detail: string
}

/** A request that was answered with problem details (RFC 9457). */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    readonly detail: string,
    readonly kind: string,
    readonly findings: Finding[],
  ) {
    super(detail || title)
  }
}
/** The server could not be reached at all, or did not answer in time. */
export class Unreachable extends Error {}

const PATIENCE_MS = 15_000
const LONG_PATIENCE_MS = 180_000

function token(): string {
  return /(?:^|;\s*)csrftoken=([^;]+)/.exec(document.cookie)?.[1] ?? ''
}

async function ask(
  method: string,
  path: string,
  options: { body?: unknown; headers?: Record<string, string>; signal?: AbortSignal; patience?: number } = {},
): Promise<Response> {
  const headers: Record<string, string> = { ...options.headers }
  if (method !== 'GET') headers['X-CSRFToken'] = token()
  let body: BodyInit | undefined
  if (options.body instanceof FormData) body = options.body
  else if (options.body !== undefined) {
    headers['Content-Type'] ??= 'application/json'
    body = JSON.stringify(options.body)
  }
  let answer: Response
  try {
    const late = AbortSignal.timeout(options.patience ?? PATIENCE_MS)
    const signal = options.signal ? AbortSignal.any([options.signal, late]) : late
    answer = await fetch(path, { method, headers, body, signal, credentials: 'same-origin' })
  } catch (error) {
    if (options.signal?.aborted) throw error
    throw new Unreachable('The server is not answering.')
  }
  if (answer.ok) return answer
  const text = await answer.text().catch(() => '')
  try {
    const problem = JSON.parse(text) as { title?: string; detail?: string; type?: string; errors?: Finding[] }
    throw new Problem(
      answer.status,
      problem.title ?? 'The request failed',
      problem.detail ?? '',
      problem.type ?? '',
      problem.errors ?? [],
    )
  } catch (error) {
    if (error instanceof Problem) throw error
    throw new Problem(answer.status, `The server answered ${answer.status}`, '', '', [])
  }
}

async function json<T>(method: string, path: string, options: Parameters<typeof ask>[2] = {}): Promise<T> {
  const answer = await ask(method, path, options)
  return (answer.status === 204 ? undefined : await answer.json()) as T
}
const based = (revision: number) => ({ 'If-Match': `"${revision}"` })

export interface Columns {
  revision: number
  step: number
  year: number
  utc_offset: number
  intervals: number
  columns: { key: string; title: string; unit: string; values: Float32Array }[]
}

/** Reads `application/vnd.noontide.columns`: the length of a JSON header, the header, float32 columns. */
export function readColumns(buffer: ArrayBuffer): Columns {
  const length = new DataView(buffer).getUint32(0, true)
  const header = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, length))) as Omit<Columns, 'columns'> & {
    columns: Omit<Columns['columns'][number], 'values'>[]
  }
  return {
    ...header,
    columns: header.columns.map((column, i) => ({
      ...column,
      values: new Float32Array(buffer, 4 + length + i * header.intervals * 4, header.intervals),
    })),
  }
}

/** A form that has a file alone. */
function fileForm(file: File, fields: Record<string, string> = {}): FormData {
  const form = new FormData()
  form.append('file', file)
  for (const [name, value] of Object.entries(fields)) form.append(name, value)
  return form
}

/** A height grid and the point in it that is asked for. */
function gridForm(file: File, site: { latitude: number; longitude: number }): FormData {
  return fileForm(file, { latitude: String(site.latitude), longitude: String(site.longitude) })
}

export const api = {
  unused: () => json<Unused>('GET', '/api/unused'),
  deleteUnused: (kind: 'weather' | 'pictures' | 'use', digest: string) =>
    json<{ bytes: number }>('DELETE', `/api/unused/${kind}/${digest}`),
  projects: () => json<ProjectCard[]>('GET', '/api/projects'),
  project: (id: number) => json<ProjectAnswer>('GET', `/api/projects/${id}`),
  beginProject: (body: { name: string; note?: string; document: object }) =>
    json<ProjectAnswer>('POST', '/api/projects', { body }),
  editProject: (id: number, body: { name?: string; note?: string }) =>
    json<ProjectAnswer>('PATCH', `/api/projects/${id}`, { body }),
  deleteProject: (id: number) => json<void>('DELETE', `/api/projects/${id}`),
  restoreProject: (id: number) => json<ProjectAnswer>('POST', `/api/projects/${id}/restore`),
  scheme: (id: number, signal?: AbortSignal) => json<SchemeAnswer>('GET', `/api/schemes/${id}`, { signal }),
  revise: (id: number, patch: object, revision: number, gesture = '') =>
    json<SchemeAnswer>('PATCH', `/api/schemes/${id}`, {
      body: patch,
      headers: {
        ...based(revision),
        'Content-Type': 'application/merge-patch+json',
        ...(gesture ? { Edit: gesture } : {}),
      },
    }),
  undo: (id: number, revision: number) =>
    json<SchemeAnswer>('POST', `/api/schemes/${id}/undo`, { headers: based(revision) }),
  redo: (id: number, revision: number) =>
    json<SchemeAnswer>('POST', `/api/schemes/${id}/redo`, { headers: based(revision) }),
  /** Applies a verb of the core: one revision, one undo. */
  act: (id: number, verb: string, body: object, revision: number, gesture = '') =>
    json<SchemeAnswer>('POST', `/api/schemes/${id}/acts/${verb}`, {
      body,
      headers: { ...based(revision), ...(gesture ? { Edit: gesture } : {}) },
    }),
  demand: (id: number, days: 'kind' | 'weekday', signal?: AbortSignal) =>
    json<DemandAnswer>('GET', `/api/schemes/${id}/demand?days=${days}`, { signal }),
  storage: (id: number, signal?: AbortSignal) => json<StorageAnswer>('GET', `/api/schemes/${id}/storage`, { signal }),
  storagePowers: (id: number, signal?: AbortSignal) =>
    json<StorageAnswer['sizes']>('GET', `/api/schemes/${id}/storage/powers`, { signal }),
  offGrid: (id: number, signal?: AbortSignal) =>
    json<OffGridAnswer>('GET', `/api/schemes/${id}/storage/off-grid`, { signal }),
  storageDay: (id: number, interval: number, signal?: AbortSignal) =>
    json<StorageDay>('GET', `/api/schemes/${id}/storage/day?interval=${interval}`, { signal }),
  money: (id: number, signal?: AbortSignal) => json<MoneyAnswer>('GET', `/api/schemes/${id}/money`, { signal }),
  readUse(file: File, reading: UseReading | null, timeZone: string) {
    return json<UseReadingAnswer>('POST', '/api/use/reading', {
      body: fileForm(file, { time_zone: timeZone, ...(reading ? { reading: JSON.stringify(reading) } : {}) }),
      patience: LONG_PATIENCE_MS,
    })
  },
  storeUse(file: File, reading: UseReading, timeZone: string) {
    return json<UseAnswer>('POST', '/api/use', {
      body: fileForm(file, { time_zone: timeZone, reading: JSON.stringify(reading) }),
      patience: LONG_PATIENCE_MS,
    })
  },
  demandKinds: () => json<DemandKinds>('GET', '/api/demand-kinds'),
  tariffs: () => json<TariffLine[]>('GET', '/api/tariffs'),
  fork: (id: number, name: string) => json<SchemeAnswer>('POST', `/api/schemes/${id}/fork`, { body: { name } }),
  pin: (id: number) => json<ProjectAnswer>('POST', `/api/schemes/${id}/pin`),
  deleteScheme: (id: number) => json<void>('DELETE', `/api/schemes/${id}`),
  restoreScheme: (id: number) => json<SchemeAnswer>('POST', `/api/schemes/${id}/restore`),
  working: (id: number, key: string, signal?: AbortSignal) =>
    json<WorkingAnswer>('GET', `/api/schemes/${id}/working/${key}`, { signal }),
  moment: (id: number, interval: number, subarray: string, signal?: AbortSignal) =>
    json<MomentAnswer>('GET', `/api/schemes/${id}/moment/${interval}${subarray ? `?subarray=${subarray}` : ''}`, {
      signal,
    }),
  orientation: (id: number, season: string, hours: [number, number], signal?: AbortSignal) =>
    json<OrientationAnswer>('GET', `/api/schemes/${id}/orientation?season=${season}&from=${hours[0]}&to=${hours[1]}`, {
      signal,
    }),
  planes: (id: number, day: number, signal?: AbortSignal) =>
    json<PlanesAnswer>('GET', `/api/schemes/${id}/planes/${day}`, { signal }),
  sunPaths: (id: number, signal?: AbortSignal) =>
    json<SunPathsAnswer>('GET', `/api/schemes/${id}/sun-paths`, { signal }),
  obstacles: (id: number, signal?: AbortSignal) =>
    json<ObstaclesAnswer>('GET', `/api/schemes/${id}/obstacles`, { signal }),
  horizonEffect: (id: number, surface: string, signal?: AbortSignal) =>
    json<HorizonEffectAnswer>('GET', `/api/schemes/${id}/horizon-effect?surface=${surface}`, { signal }),
  outlineAccess: (id: number, body: Shapes['SeenOutline']) =>
    json<Shapes['AccessTable']>('POST', `/api/schemes/${id}/outline-access`, { body }),
  compareWeather: (id: number, digests: string[], signal?: AbortSignal) =>
    json<WeatherComparison>('GET', `/api/schemes/${id}/compare-weather?digests=${digests.join(',')}`, { signal }),
  /** Begins long work on a scheme; what it finds comes with the job once it is done. */
  beginJob: <K extends keyof SchemeJobs>(id: number, kind: K, body: object = {}) =>
    json<SchemeJobs[K]>('POST', `/api/schemes/${id}/jobs/${kind}`, { body }),
  latestJob: <K extends keyof SchemeJobs>(id: number, kind: K, signal?: AbortSignal) =>
    json<SchemeJobs[K] | undefined>('GET', `/api/schemes/${id}/jobs/${kind}`, { signal }),
  months: (id: number, signal?: AbortSignal) => json<MonthsAnswer>('GET', `/api/schemes/${id}/months`, { signal }),
  trackerCurve: (id: number, subarray: string, interval: number, signal?: AbortSignal) =>
    json<CurveAnswer>('GET', `/api/schemes/${id}/curve/${subarray}/${interval}`, { signal }),
  findStrings: (id: number, body: Partial<FindRequest>, signal?: AbortSignal) =>
    json<FoundStrings>('POST', `/api/schemes/${id}/find-strings`, { body, signal, patience: LONG_PATIENCE_MS }),
  scene: async (id: number, signal?: AbortSignal) =>
    expandedScene(await json<Shapes['SceneAnswer']>('GET', `/api/schemes/${id}/scene`, { signal })),
  lightTakers: (id: number, surface: string, module: string, signal?: AbortSignal) =>
    json<LightTakers>('GET', `/api/schemes/${id}/light-takers/${surface}/${module}`, { signal }),
  shadeTable: (id: number, byModule: boolean) => `/api/schemes/${id}/shade-table?modules=${byModule}`,
  shade: (
    id: number,
    asked: { everything: boolean; coarse: boolean; spacing: number | null; span: [number, number] | null },
    signal?: AbortSignal,
  ) => {
    const { spacing, span } = asked
    const rest = `${spacing ? `&spacing=${spacing}` : ''}${span ? `&first=${span[0]}&last=${span[1]}` : ''}`
    return json<ShadeAnswer>(
      'GET',
      `/api/schemes/${id}/shade?everything=${asked.everything}&coarse=${asked.coarse}${rest}`,
      { signal },
    )
  },
  room: (id: number, surface: string, signal?: AbortSignal) =>
    json<RoomAnswer>('GET', `/api/schemes/${id}/room/${surface}`, { signal }),
  readScene: (id: number, file: File, up: SceneReading['up']) =>
    json<SceneReading>('POST', `/api/schemes/${id}/scene-reading`, {
      body: fileForm(file, { up }),
      patience: LONG_PATIENCE_MS,
    }),
  planFile: (id: number, format: string) => `/api/schemes/${id}/plan/${format}`,
  preview: (id: number, body: { patch: object; rule: string; pointer: string }, signal?: AbortSignal) =>
    json<PreviewAnswer>('POST', `/api/schemes/${id}/preview`, { body, signal }),
  wiring: (id: number, signal?: AbortSignal) => json<WiringAnswer>('GET', `/api/schemes/${id}/wiring`, { signal }),
  diagram: (id: number, paper: string, signal?: AbortSignal) =>
    json<DiagramAnswer>('GET', `/api/schemes/${id}/diagram?paper=${paper}`, { signal }),
  diagramFile: (id: number, paper: string, kind: 'svg' | 'pdf' | 'dxf', sheet?: number) =>
    `/api/schemes/${id}/diagram?paper=${paper}&kind=${kind}${sheet ? `&sheet=${sheet}` : ''}`,
  bill: (id: number, signal?: AbortSignal) => json<BillAnswer>('GET', `/api/schemes/${id}/bill`, { signal }),
  offGridSheet: (id: number) => `/api/schemes/${id}/off-grid-sheet`,
  stringSheet: (id: number) => `/api/schemes/${id}/string-sheet`,
  billFile: (id: number, kind: 'csv' | 'xlsx') => `/api/schemes/${id}/bill?kind=${kind}`,
  voltages: (id: number, subarray: string, signal?: AbortSignal) =>
    json<VoltageAnswer>('GET', `/api/schemes/${id}/voltages/${subarray}`, { signal }),
  /** Events of a scheme: `revised`, `evaluated`, and `alive` every few seconds. */
  events: (id: number) => (typeof EventSource === 'undefined' ? null : new EventSource(`/api/schemes/${id}/events`)),
  async hourly(id: number, quantities: string[], subarray = '', signal?: AbortSignal): Promise<Columns> {
    const answer = await ask(
      'GET',
      `/api/schemes/${id}/hourly?quantities=${quantities.join(',')}&subarray=${subarray}`,
      { signal },
    )
    return readColumns(await answer.arrayBuffer())
  },
  hourlyCsv: (id: number, quantities: string[], subarray = '') =>
    `/api/schemes/${id}/hourly?kind=csv&quantities=${quantities.join(',')}&subarray=${subarray}`,
  estimate: (body: Partial<EstimateRequest>, signal?: AbortSignal) =>
    json<EstimateAnswer>('POST', '/api/estimate', { body, signal }),
  figures: () => json<FiguresAnswer>('GET', '/api/figures'),
  importParts(file: File, kind: string, mapping: Record<string, string>, keep: boolean) {
    const body = fileForm(file)
    body.append('kind', kind)
    body.append('mapping', JSON.stringify(Object.fromEntries(Object.entries(mapping).filter(([, field]) => field))))
    body.append('keep', String(keep))
    return json<ImportAnswer>('POST', '/api/parts/import', { body, patience: LONG_PATIENCE_MS })
  },
  modulePage: (id: string, signal?: AbortSignal, moment?: { irradiance: number; cell_temperature: number }) =>
    json<ModulePage>(
      'GET',
      `/api/parts/modules/${id}/page${moment ? `?irradiance=${moment.irradiance}&temperature=${moment.cell_temperature}` : ''}`,
      { signal },
    ),
  inverterPage: (id: string, signal?: AbortSignal) =>
    json<InverterPage>('GET', `/api/parts/inverters/${id}/page`, { signal }),
  typePart: (
    kind: Exclude<keyof PartsAnswer, 'own'>,
    body: { values: Record<string, unknown>; text: string; keep: boolean },
    signal?: AbortSignal,
  ) => json<TypedAnswer>('POST', `/api/parts/${kind}`, { body, signal }),
  fitCurve(id: string, file: File, irradiance: string, temperature: string) {
    const body = fileForm(file)
    body.append('irradiance', irradiance)
    body.append('temperature', temperature)
    return json<CurveFitAnswer>('POST', `/api/parts/modules/${id}/fit`, { body, patience: LONG_PATIENCE_MS })
  },
  partsFile: (kind: string, file: 'csv' | 'xlsx' | 'json', own = false) =>
    `/api/parts/export?kind=${kind}&file=${file}${own ? '&own=true' : ''}`,
  preferences: () => json<Preference[]>('GET', '/api/parts/preferences'),
  keepPreference: (body: Preference) => json<Preference>('PUT', '/api/parts/preferences', { body }),
  deletePreference: (name: string) => json<void>('DELETE', `/api/parts/preferences?name=${encodeURIComponent(name)}`),
  deletePart: (kind: string, id: string) => json<void>('DELETE', `/api/parts/${kind}/${id}`),
  quantities: () => json<QuantityLine[]>('GET', '/api/quantities'),
  acts: () => json<VerbLine[]>('GET', '/api/acts'),
  questions: () => json<QuestionLine[]>('GET', '/api/questions'),
  designSchema: () => json<Record<string, unknown>>('GET', '/api/design-schema'),
  parts: () => json<PartsAnswer>('GET', '/api/parts'),
  recogniseFile: (file: File) =>
    json<FileGuess>('POST', '/api/files/recognise', { body: fileForm(file), patience: LONG_PATIENCE_MS }),
  places: (q: string, signal?: AbortSignal) =>
    json<FoundAnswer>('GET', `/api/places?q=${encodeURIComponent(q)}`, { signal }),
  placeCodes: () => json<CodeTable>('GET', '/api/places/codes'),
  setPlaceCodes: (codes: CodeLine[]) => json<CodeTable>('PUT', '/api/places/codes', { body: { codes } }),
  placeAt: (latitude: number, longitude: number) =>
    json<PlaceAnswer>('GET', `/api/places/at?latitude=${latitude}&longitude=${longitude}`),
  elevation: (latitude: number, longitude: number) =>
    json<ElevationAnswer>('GET', `/api/places/elevation?latitude=${latitude}&longitude=${longitude}`),
  placesWithin: (box: { west: number; south: number; east: number; north: number }, signal?: AbortSignal) =>
    json<PlaceAnswer[]>('GET', `/api/places/within?bbox=${box.west},${box.south},${box.east},${box.north}`, { signal }),
  terrainHeight: (file: File, site: { latitude: number; longitude: number }) =>
    json<{ elevation: number }>('POST', '/api/places/height', {
      body: gridForm(file, site),
      patience: LONG_PATIENCE_MS,
    }),
  terrainHorizon: (file: File, site: { latitude: number; longitude: number }) =>
    json<TerrainHorizon>('POST', '/api/places/horizon', { body: gridForm(file, site), patience: LONG_PATIENCE_MS }),
  regionLayer: (file: File) => json<LayerSite[]>('POST', '/api/places/region', { body: fileForm(file) }),
  requestRegion: (sites: { key: string; latitude: number; longitude: number }[]) =>
    json<JobAnswer>('POST', '/api/weather/region', { body: { sites } }),
  storePicture: (file: File) =>
    json<PictureAnswer>('POST', '/api/pictures', { body: fileForm(file), patience: LONG_PATIENCE_MS }),
  picture: (digest: string) => `/api/pictures/${digest}`,
  weatherLibrary: () => json<WeatherAnswer[]>('GET', '/api/weather'),
  weatherYear: (digest: string) => json<WeatherAnswer>('GET', `/api/weather/${digest}`),
  weatherSources: (site: { latitude: number; longitude: number; elevation: number }, signal?: AbortSignal) =>
    json<SourcesAnswer>(
      'GET',
      `/api/weather/sources?latitude=${site.latitude}&longitude=${site.longitude}&elevation=${site.elevation}`,
      { signal, patience: LONG_PATIENCE_MS },
    ),
  requestSource: (body: SourceRequest) => json<JobAnswer>('POST', '/api/weather/sources', { body }),
  weatherWorking: (digest: string, key: string, signal?: AbortSignal) =>
    json<FactWorking>('GET', `/api/weather/${digest}/working/${key}`, { signal }),
  weatherQuality: (digest: string, signal?: AbortSignal) =>
    json<DoubtAnswer[]>('GET', `/api/weather/${digest}/quality`, { signal }),
  weatherFile: (digest: string, kind: 'epw' | 'csv' | 'covjson' | 'parquet') =>
    `/api/weather/${digest}/file?kind=${kind}`,
  readWeather(
    file: File,
    given: { reading?: Reading; place?: { latitude: number; longitude: number; elevation: number } | null },
    signal?: AbortSignal,
  ) {
    const body = new FormData()
    body.append('file', file)
    if (given.reading) body.append('reading', JSON.stringify(given.reading))
    for (const [name, value] of Object.entries(given.place ?? {})) body.append(name, String(value))
    return json<ReadingAnswer>('POST', '/api/weather/reading', { body, signal, patience: LONG_PATIENCE_MS })
  },
  storeWeather(file: File, reading?: Reading, signal?: AbortSignal) {
    const body = new FormData()
    body.append('file', file)
    if (reading) body.append('reading', JSON.stringify(reading))
    return json<WeatherAnswer>('POST', '/api/weather', { body, signal, patience: LONG_PATIENCE_MS })
  },
  synthesiseWeather: (body: SynthesisRequest) => json<WeatherAnswer>('POST', '/api/weather/synthesise', { body }),
  requestWeather: (body: { latitude: number; longitude: number; elevation: number; name: string; time_zone: string }) =>
    json<JobAnswer>('POST', '/api/weather/request', { body }),
  job: (id: string) => json<JobAnswer>('GET', `/api/jobs/${id}`),
  cancelJob: (id: string) => json<JobAnswer>('DELETE', `/api/jobs/${id}`),
}
