import type { components as designComponents } from './design'
import type { JsonObject } from './mergePatch'
import { expandedScene } from './expandedScene'
import { readColumns, type Columns } from './columns'
import type { components, paths } from './schema'
import { address, formOf, of, patient, server } from './server'

export type { SceneAnswer } from './expandedScene'
export { readColumns, type Columns } from './columns'
export { Problem, Unreachable, type Finding } from './server'

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
  'design-to': Shapes['DesignTo']
}
export type ReportCatalogue = Shapes['ReportCatalogue']
export type ReportAnswer = Shapes['ReportAnswer']
export type LetterheadLine = Shapes['LetterheadLine']
export type LetterheadAnswer = Shapes['LetterheadAnswer']
export type EditionLine = Shapes['EditionLine']
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
export type HabitsLine = Shapes['HabitsLine']
export type HabitsAnswer = Shapes['HabitsAnswer']
export type JobAnswer = Shapes['JobAnswer']
/** A part of the year that orientations are compared over. */
export type Season = NonNullable<
  paths['/api/schemes/{scheme_id}/orientation']['get']['parameters']['query']
>['season'] &
  string
/** Of a report. */
type Paper = NonNullable<paths['/api/schemes/{scheme_id}/report']['get']['parameters']['query']>['paper']
/** Long work on a scheme by its kind, each with what it finds. */
export interface SchemeJobs {
  years: Shapes['YearsResultJob']
  'find-strings': Shapes['FoundStringsJob']
  'obstacle-costs': Shapes['SceneObstaclesJob']
  report: Shapes['ReportJob']
  sensitivity: Shapes['SensitivityFoundJob']
  'design-to': Shapes['DesignedToJob']
}

export type TrialAnswer = Shapes['TrialAnswer']
export type TrialLine = Shapes['TrialLine']
export type LooseLine = Shapes['LooseLine']
export type TieLine = Shapes['TieLine']
export type FigureColumn = Shapes['FigureColumn']
export type TrialRun = Shapes['TrialRun']
export type TrialCell = Shapes['TrialCell']
export type StepLine = Shapes['StepLine']
export type SensitivityFound = Shapes['SensitivityFound']
export type Scalar = boolean | number | string | null
/** A study as its document has it (docs/formats/study.schema.json). */
export interface Study {
  name?: string
  loose: Record<string, LooseValue>
  ties?: Record<string, { loose: string; times?: number; plus?: number }>
  acts?: { verb: string; arguments: Record<string, unknown> }[]
  way?: string
  runs?: number | null
  seed?: number
  aim?: Aim | null
  also?: Aim[]
  limits?: Limit[]
  figures?: string[]
}
export interface LooseValue {
  title?: string
  unit?: string
  pointers?: string[]
  values?: Scalar[] | null
  low?: number | null
  high?: number | null
  step?: number | null
  is_whole?: boolean
  own?: Scalar
}
export interface Aim {
  figure: string
  better: 'more' | 'less'
}
export interface Limit {
  figure: string
  at_least?: number | null
  at_most?: number | null
}

const scheme = (id: number) => ({ path: { scheme_id: id } })
const trial = (id: number) => ({ path: { trial_id: id } })
/** Of the runs of a set: how they are put together, and at what loose values are held. */
type Together = { of?: 'best' | 'mean'; hold?: string[] }
/** A scheme at the revision that something is based on; edits of one gesture have one name. */
const based = (id: number, revision: number, gesture = '') => ({
  path: { scheme_id: id },
  header: { 'If-Match': `"${revision}"`, ...(gesture ? { Edit: gesture } : {}) },
})

/** A height grid and the point in it that is asked for. */
function gridForm(file: File, site: { latitude: number; longitude: number }) {
  return formOf(file, { latitude: String(site.latitude), longitude: String(site.longitude) })
}

export const api = {
  unused: () => of(server.GET('/api/unused')),
  deleteUnused: (kind: 'weather' | 'pictures' | 'use', digest: string) =>
    of(server.DELETE(`/api/unused/${kind}/{digest}`, { params: { path: { digest } } })) as Promise<Shapes['Freed']>,
  projects: () => of(server.GET('/api/projects')),
  project: (id: number) => of(server.GET('/api/projects/{project_id}', { params: { path: { project_id: id } } })),
  beginProject: (body: { name: string; note?: string; document: JsonObject }) =>
    of(server.POST('/api/projects', { body })),
  editProject: (id: number, body: { name?: string; note?: string }) =>
    of(server.PATCH('/api/projects/{project_id}', { params: { path: { project_id: id } }, body })),
  deleteProject: (id: number) =>
    of(server.DELETE('/api/projects/{project_id}', { params: { path: { project_id: id } } })),
  restoreProject: (id: number) =>
    of(server.POST('/api/projects/{project_id}/restore', { params: { path: { project_id: id } } })),
  scheme: (id: number, signal?: AbortSignal) =>
    of(server.GET('/api/schemes/{scheme_id}', { params: scheme(id), signal })),
  revise: (id: number, patch: object, revision: number, gesture = '') =>
    of(
      server.PATCH('/api/schemes/{scheme_id}', {
        params: based(id, revision, gesture),
        body: patch as JsonObject,
        headers: { 'Content-Type': 'application/merge-patch+json' },
      }),
    ),
  undo: (id: number, revision: number) =>
    of(server.POST('/api/schemes/{scheme_id}/undo', { params: based(id, revision) })),
  redo: (id: number, revision: number) =>
    of(server.POST('/api/schemes/{scheme_id}/redo', { params: based(id, revision) })),
  /** Applies a verb of the core: one revision, one undo. */
  act: (id: number, verb: string, body: object, revision: number, gesture = '') => {
    const { path, header } = based(id, revision, gesture)
    return of(
      server.POST('/api/schemes/{scheme_id}/acts/{verb}', {
        params: { path: { ...path, verb }, header },
        body: body as Record<string, never>,
      }),
    )
  },
  demand: (id: number, days: 'kind' | 'weekday', signal?: AbortSignal) =>
    of(server.GET('/api/schemes/{scheme_id}/demand', { params: { path: { scheme_id: id }, query: { days } }, signal })),
  storage: (id: number, signal?: AbortSignal) =>
    of(server.GET('/api/schemes/{scheme_id}/storage', { params: scheme(id), signal })),
  storagePowers: (id: number, signal?: AbortSignal) =>
    of(server.GET('/api/schemes/{scheme_id}/storage/powers', { params: scheme(id), signal })),
  offGrid: (id: number, signal?: AbortSignal) =>
    of(server.GET('/api/schemes/{scheme_id}/storage/off-grid', { params: scheme(id), signal })),
  storageDay: (id: number, interval: number, signal?: AbortSignal) =>
    of(
      server.GET('/api/schemes/{scheme_id}/storage/day', {
        params: { path: { scheme_id: id }, query: { interval } },
        signal,
      }),
    ),
  money: (id: number, signal?: AbortSignal) =>
    of(server.GET('/api/schemes/{scheme_id}/money', { params: scheme(id), signal })),
  readUse(file: File, reading: UseReading | null, timeZone: string) {
    return of(
      server.POST('/api/use/reading', {
        body: formOf(file, { time_zone: timeZone, ...(reading ? { reading: JSON.stringify(reading) } : {}) }),
        ...patient,
      }),
    )
  },
  storeUse(file: File, reading: UseReading, timeZone: string) {
    return of(
      server.POST('/api/use', {
        body: formOf(file, { time_zone: timeZone, reading: JSON.stringify(reading) }),
        ...patient,
      }),
    )
  },
  demandKinds: () => of(server.GET('/api/demand-kinds')),
  tariffs: () => of(server.GET('/api/tariffs')),
  fork: (id: number, name: string) =>
    of(server.POST('/api/schemes/{scheme_id}/fork', { params: scheme(id), body: { name } })),
  pin: (id: number) => of(server.POST('/api/schemes/{scheme_id}/pin', { params: scheme(id) })),
  deleteScheme: (id: number) => of(server.DELETE('/api/schemes/{scheme_id}', { params: scheme(id) })),
  restoreScheme: (id: number) => of(server.POST('/api/schemes/{scheme_id}/restore', { params: scheme(id) })),
  working: (id: number, key: string, signal?: AbortSignal) =>
    of(server.GET('/api/schemes/{scheme_id}/working/{key}', { params: { path: { scheme_id: id, key } }, signal })),
  moment: (id: number, interval: number, subarray: string, signal?: AbortSignal) =>
    of(
      server.GET('/api/schemes/{scheme_id}/moment/{interval}', {
        params: { path: { scheme_id: id, interval }, query: subarray ? { subarray } : {} },
        signal,
      }),
    ),
  orientation: (id: number, season: Season, hours: [number, number], signal?: AbortSignal) =>
    of(
      server.GET('/api/schemes/{scheme_id}/orientation', {
        params: { path: { scheme_id: id }, query: { season, from: hours[0], to: hours[1] } },
        signal,
      }),
    ),
  planes: (id: number, day: number, signal?: AbortSignal) =>
    of(server.GET('/api/schemes/{scheme_id}/planes/{day}', { params: { path: { scheme_id: id, day } }, signal })),
  sunPaths: (id: number, signal?: AbortSignal) =>
    of(server.GET('/api/schemes/{scheme_id}/sun-paths', { params: scheme(id), signal })),
  obstacles: (id: number, signal?: AbortSignal) =>
    of(server.GET('/api/schemes/{scheme_id}/obstacles', { params: scheme(id), signal })),
  horizonEffect: (id: number, surface: string, signal?: AbortSignal) =>
    of(
      server.GET('/api/schemes/{scheme_id}/horizon-effect', {
        params: { path: { scheme_id: id }, query: { surface } },
        signal,
      }),
    ),
  outlineAccess: (id: number, body: Shapes['SeenOutline']) =>
    of(server.POST('/api/schemes/{scheme_id}/outline-access', { params: scheme(id), body })),
  compareWeather: (id: number, digests: string[], signal?: AbortSignal) =>
    of(
      server.GET('/api/schemes/{scheme_id}/compare-weather', {
        params: { path: { scheme_id: id }, query: { digests: digests.join(',') } },
        signal,
      }),
    ),
  /** Begins long work on a scheme; what it finds comes with the job once it is done. */
  beginJob: <K extends keyof SchemeJobs>(id: number, kind: K, body: object = {}) =>
    of(server.POST(`/api/schemes/{scheme_id}/jobs/${kind}`, { params: scheme(id), body } as never)) as Promise<
      SchemeJobs[K]
    >,
  /** The last work of a kind that is kept; a report is a file that is fetched once. */
  latestJob: <K extends Exclude<keyof SchemeJobs, 'report'>>(id: number, kind: K, signal?: AbortSignal) =>
    of(server.GET(`/api/schemes/{scheme_id}/jobs/${kind}`, { params: scheme(id), signal } as never)) as Promise<
      SchemeJobs[K] | undefined
    >,
  months: (id: number, signal?: AbortSignal) =>
    of(server.GET('/api/schemes/{scheme_id}/months', { params: scheme(id), signal })),
  trackerCurve: (id: number, subarray: string, interval: number, signal?: AbortSignal) =>
    of(
      server.GET('/api/schemes/{scheme_id}/curve/{subarray}/{interval}', {
        params: { path: { scheme_id: id, subarray, interval } },
        signal,
      }),
    ),
  findStrings: (id: number, body: Partial<FindRequest>, signal?: AbortSignal) =>
    of(server.POST('/api/schemes/{scheme_id}/find-strings', { params: scheme(id), body, signal, ...patient })),
  scene: async (id: number, signal?: AbortSignal) =>
    expandedScene(await of(server.GET('/api/schemes/{scheme_id}/scene', { params: scheme(id), signal }))),
  lightTakers: (id: number, surface: string, module: string, signal?: AbortSignal) =>
    of(
      server.GET('/api/schemes/{scheme_id}/light-takers/{surface}/{module}', {
        params: { path: { scheme_id: id, surface, module } },
        signal,
      }),
    ),
  shadeTable: (id: number, byModule: boolean) =>
    address('/api/schemes/{scheme_id}/shade-table', { ...scheme(id), query: { modules: byModule } }),
  shade: (
    id: number,
    asked: { everything: boolean; coarse: boolean; spacing: number | null; span: [number, number] | null },
    signal?: AbortSignal,
  ) => {
    const { everything, coarse, spacing, span } = asked
    const some = { ...(spacing ? { spacing } : {}), ...(span ? { first: span[0], last: span[1] } : {}) }
    return of(
      server.GET('/api/schemes/{scheme_id}/shade', {
        params: { ...scheme(id), query: { everything, coarse, ...some } },
        signal,
      }),
    )
  },
  room: (id: number, surface: string, signal?: AbortSignal) =>
    of(server.GET('/api/schemes/{scheme_id}/room/{surface}', { params: { path: { scheme_id: id, surface } }, signal })),
  readScene: (id: number, file: File, up: SceneReading['up']) =>
    of(
      server.POST('/api/schemes/{scheme_id}/scene-reading', {
        params: scheme(id),
        body: formOf(file, { up }),
        ...patient,
      }),
    ),
  planFile: (id: number, kind: 'svg' | 'pdf' | 'dxf' | 'csv' | 'geojson' | 'glb') =>
    address('/api/schemes/{scheme_id}/plan/{kind}', { path: { scheme_id: id, kind } }),
  preview: (id: number, body: { patch: JsonObject; rule: string; pointer: string }, signal?: AbortSignal) =>
    of(server.POST('/api/schemes/{scheme_id}/preview', { params: scheme(id), body, signal })),
  wiring: (id: number, signal?: AbortSignal) =>
    of(server.GET('/api/schemes/{scheme_id}/wiring', { params: scheme(id), signal })),
  diagram: (id: number, paper: 'a4' | 'a3', signal?: AbortSignal) =>
    of(
      server.GET('/api/schemes/{scheme_id}/diagram', { params: { path: { scheme_id: id }, query: { paper } }, signal }),
    ),
  diagramFile: (id: number, paper: 'a4' | 'a3', kind: 'svg' | 'pdf' | 'dxf', sheet?: number) =>
    address('/api/schemes/{scheme_id}/diagram', { ...scheme(id), query: { paper, kind, ...(sheet ? { sheet } : {}) } }),
  bill: (id: number, signal?: AbortSignal) =>
    of(server.GET('/api/schemes/{scheme_id}/bill', { params: scheme(id), signal })),
  offGridSheet: (id: number) => address('/api/schemes/{scheme_id}/off-grid-sheet', scheme(id)),
  stringSheet: (id: number) => address('/api/schemes/{scheme_id}/string-sheet', scheme(id)),
  billFile: (id: number, kind: 'csv' | 'xlsx') =>
    address('/api/schemes/{scheme_id}/bill', { ...scheme(id), query: { kind } }),
  reports: () => of(server.GET('/api/reports')),
  keepEdition: (body: Shapes['KeptEdition']) => of(server.POST('/api/reports', { body })),
  deleteEdition: (key: string) => of(server.DELETE('/api/reports/{key}', { params: { path: { key } } })),
  letterhead: () => of(server.GET('/api/reports/letterhead')),
  setLogo: (file: File) => of(server.POST('/api/reports/letterhead/logo', { body: formOf(file), ...patient })),
  removeLogo: () => of(server.DELETE('/api/reports/letterhead/logo')),
  setLetterhead: (body: LetterheadLine) => of(server.PUT('/api/reports/letterhead', { body })),
  report: (id: number, pages: string[], paper: string, signal?: AbortSignal) =>
    of(
      server.GET('/api/schemes/{scheme_id}/report', {
        params: { ...scheme(id), query: { pages: pages.join(), paper: paper as Paper } },
        signal,
        ...patient,
      }),
    ),
  voltages: (id: number, subarray: string, signal?: AbortSignal) =>
    of(
      server.GET('/api/schemes/{scheme_id}/voltages/{subarray}', {
        params: { path: { scheme_id: id, subarray } },
        signal,
      }),
    ),
  /** Events of a scheme: `revised`, `evaluated`, and `alive` every few seconds. */
  events: (id: number) => (typeof EventSource === 'undefined' ? null : new EventSource(`/api/schemes/${id}/events`)),
  async hourly(id: number, quantities: string[], subarray = '', signal?: AbortSignal): Promise<Columns> {
    const { response } = await server.GET('/api/schemes/{scheme_id}/hourly', {
      params: { ...scheme(id), query: { quantities: quantities.join(','), subarray } },
      parseAs: 'stream',
      signal,
    })
    return readColumns(await response.arrayBuffer())
  },
  hourlyCsv: (id: number, quantities: string[], subarray = '') =>
    address('/api/schemes/{scheme_id}/hourly', {
      ...scheme(id),
      query: { kind: 'csv', quantities: quantities.join(','), subarray },
    }),
  estimate: (body: Partial<EstimateRequest>, signal?: AbortSignal) =>
    of(server.POST('/api/estimate', { body, signal })),
  figures: () => of(server.GET('/api/figures')),
  importParts(file: File, kind: string, mapping: Record<string, string>, keep: boolean) {
    const named = Object.fromEntries(Object.entries(mapping).filter(([, field]) => field))
    const body = formOf(file, { kind, mapping: JSON.stringify(named), keep: String(keep) })
    return of(server.POST('/api/parts/import', { body, ...patient }))
  },
  modulePage: (id: string, signal?: AbortSignal, moment?: { irradiance: number; cell_temperature: number }) =>
    of(
      server.GET('/api/parts/modules/{key}/page', {
        params: {
          path: { key: id },
          query: moment ? { irradiance: moment.irradiance, temperature: moment.cell_temperature } : {},
        },
        signal,
      }),
    ),
  inverterPage: (id: string, signal?: AbortSignal) =>
    of(server.GET('/api/parts/inverters/{key}/page', { params: { path: { key: id } }, signal })),
  typePart: (
    kind: Exclude<keyof PartsAnswer, 'own'>,
    body: { values: Record<string, unknown>; text: string; keep: boolean },
    signal?: AbortSignal,
  ) => of(server.POST('/api/parts/{kind}', { params: { path: { kind } }, body, signal })),
  fitCurve: (id: string, file: File, irradiance: string, temperature: string) =>
    of(
      server.POST('/api/parts/modules/{key}/fit', {
        params: { path: { key: id } },
        body: formOf(file, { irradiance, temperature }),
        ...patient,
      }),
    ),
  partsFile: (kind: Exclude<keyof PartsAnswer, 'own'>, file: 'csv' | 'xlsx' | 'json', own = false) =>
    address('/api/parts/export', { query: { kind, file, ...(own ? { own } : {}) } }),
  preferences: () => of(server.GET('/api/parts/preferences')),
  keepPreference: (body: Preference) => of(server.PUT('/api/parts/preferences', { body })),
  deletePreference: (name: string) => of(server.DELETE('/api/parts/preferences', { params: { query: { name } } })),
  deletePart: (kind: string, id: string) =>
    of(server.DELETE('/api/parts/{kind}/{key}', { params: { path: { kind, key: id } } })),
  quantities: () => of(server.GET('/api/quantities')),
  acts: () => of(server.GET('/api/acts')),
  questions: () => of(server.GET('/api/questions')),
  designSchema: () => of(server.GET('/api/design-schema')),
  parts: () => of(server.GET('/api/parts')),
  habits: () => of(server.GET('/api/habits')),
  setHabits: (body: HabitsLine) => of(server.PUT('/api/habits', { body })),
  fileKinds: () => of(server.GET('/api/files/recognise')),
  /** What a project's file would bring, or the project that it has brought. */
  lookIntoProject: (file: File) =>
    of(server.POST('/api/projects/file', { body: formOf(file, { look: 'true' }), ...patient })),
  bringInProject: (file: File) => of(server.POST('/api/projects/file', { body: formOf(file), ...patient })),
  takeAway: (id: number, signal?: AbortSignal) =>
    of(server.GET('/api/schemes/{scheme_id}/take-away', { params: scheme(id), signal })),
  sharedViews: (id: number, signal?: AbortSignal) =>
    of(server.GET('/api/schemes/{scheme_id}/shared', { params: scheme(id), signal })),
  share: (id: number, body: Partial<Shapes['ViewRequest']>) =>
    of(server.POST('/api/schemes/{scheme_id}/shared', { params: scheme(id), body })),
  takeBack: (key: string) => of(server.DELETE('/api/shared/{key}', { params: { path: { key } } })),
  readView: (token: string, signal?: AbortSignal) =>
    of(server.GET('/api/shared/{token}/view', { params: { path: { token } }, signal })),
  async readViewYear(token: string, signal?: AbortSignal): Promise<Columns> {
    const { response } = await server.GET('/api/shared/{token}/year', {
      params: { path: { token } },
      parseAs: 'stream',
      signal,
    })
    return readColumns(await response.arrayBuffer())
  },
  readViewReport: (token: string, signal?: AbortSignal) =>
    of(server.GET('/api/shared/{token}/report', { params: { path: { token }, query: { kind: 'sheets' } }, signal })),
  readViewFile: (token: string, kind: 'pdf' | 'html') =>
    address('/api/shared/{token}/report', { path: { token }, query: { kind } }),
  recogniseFile: (file: File) => of(server.POST('/api/files/recognise', { body: formOf(file), ...patient })),
  places: (q: string, signal?: AbortSignal) => of(server.GET('/api/places', { params: { query: { q } }, signal })),
  placeCodes: () => of(server.GET('/api/places/codes')),
  setPlaceCodes: (codes: CodeLine[]) => of(server.PUT('/api/places/codes', { body: { codes } })),
  placeAt: (latitude: number, longitude: number) =>
    of(server.GET('/api/places/at', { params: { query: { latitude, longitude } } })),
  elevation: (latitude: number, longitude: number) =>
    of(server.GET('/api/places/elevation', { params: { query: { latitude, longitude } } })),
  placesWithin: (box: { west: number; south: number; east: number; north: number }, signal?: AbortSignal) =>
    of(
      server.GET('/api/places/within', {
        params: { query: { bbox: `${box.west},${box.south},${box.east},${box.north}` } },
        signal,
      }),
    ),
  terrainHeight: (file: File, site: { latitude: number; longitude: number }) =>
    of(server.POST('/api/places/height', { body: gridForm(file, site), ...patient })),
  terrainHorizon: (file: File, site: { latitude: number; longitude: number }) =>
    of(server.POST('/api/places/horizon', { body: gridForm(file, site), ...patient })),
  regionLayer: (file: File) => of(server.POST('/api/places/region', { body: formOf(file) })),
  requestRegion: (sites: { key: string; latitude: number; longitude: number }[]) =>
    of(server.POST('/api/weather/region', { body: { sites } })),
  storePicture: (file: File) => of(server.POST('/api/pictures', { body: formOf(file), ...patient })),
  picture: (digest: string) => address('/api/pictures/{digest}', { path: { digest } }),
  weatherLibrary: () => of(server.GET('/api/weather')),
  weatherYear: (digest: string) => of(server.GET('/api/weather/{digest}', { params: { path: { digest } } })),
  weatherSources: (site: { latitude: number; longitude: number; elevation: number }, signal?: AbortSignal) =>
    of(
      server.GET('/api/weather/sources', {
        params: { query: { latitude: site.latitude, longitude: site.longitude, elevation: site.elevation } },
        signal,
        ...patient,
      }),
    ),
  requestSource: (body: SourceRequest) => of(server.POST('/api/weather/sources', { body })),
  weatherWorking: (digest: string, key: string, signal?: AbortSignal) =>
    of(server.GET('/api/weather/{digest}/working/{key}', { params: { path: { digest, key } }, signal })),
  weatherQuality: (digest: string, signal?: AbortSignal) =>
    of(server.GET('/api/weather/{digest}/quality', { params: { path: { digest } }, signal })),
  weatherFile: (digest: string, kind: 'epw' | 'csv' | 'covjson' | 'parquet') =>
    address('/api/weather/{digest}/file', { path: { digest }, query: { kind } }),
  readWeather(
    file: File,
    given: { reading?: Reading; place?: { latitude: number; longitude: number; elevation: number } | null },
    signal?: AbortSignal,
  ) {
    const place = Object.entries(given.place ?? {}).map(([name, value]) => [name, String(value)])
    const reading = given.reading ? { reading: JSON.stringify(given.reading) } : {}
    const body = formOf(file, { ...reading, ...Object.fromEntries(place) })
    return of(server.POST('/api/weather/reading', { body, signal, ...patient }))
  },
  storeWeather: (file: File, reading?: Reading, signal?: AbortSignal) =>
    of(
      server.POST('/api/weather', {
        body: formOf(file, reading ? { reading: JSON.stringify(reading) } : {}),
        signal,
        ...patient,
      }),
    ),
  synthesiseWeather: (body: SynthesisRequest) => of(server.POST('/api/weather/synthesise', { body })),
  requestWeather: (body: { latitude: number; longitude: number; elevation: number; name: string; time_zone: string }) =>
    of(server.POST('/api/weather/request', { body })),
  trials: (id: number, signal?: AbortSignal) =>
    of(server.GET('/api/schemes/{scheme_id}/trials', { params: scheme(id), signal })),
  beginTrials: (id: number, study: Study) =>
    of(server.POST('/api/schemes/{scheme_id}/trials', { params: scheme(id), body: { study: study as never } })),
  letLoose: (
    id: number,
    body: {
      pointers?: string[]
      keys?: string[]
      size?: 'array' | 'battery' | 'ratio'
      follows?: string
      loose: boolean
      of?: number
    },
  ) => of(server.POST('/api/schemes/{scheme_id}/trials/loosen', { params: scheme(id), body, ...patient })),
  trial: (id: number, signal?: AbortSignal) =>
    of(server.GET('/api/trials/{trial_id}', { params: trial(id), signal, ...patient })),
  rewriteTrials: (id: number, study: Study | null) =>
    of(server.PUT('/api/trials/{trial_id}', { params: trial(id), body: { study: study as never }, ...patient })),
  deleteTrials: (id: number) => of(server.DELETE('/api/trials/{trial_id}', { params: trial(id) })),
  startTrials: (id: number) => of(server.POST('/api/trials/{trial_id}/start', { params: trial(id), ...patient })),
  runTrialsAgain: (id: number) => of(server.POST('/api/trials/{trial_id}/again', { params: trial(id), ...patient })),
  pauseTrials: (id: number) => of(server.POST('/api/trials/{trial_id}/pause', { params: trial(id) })),
  cancelTrials: (id: number) => of(server.POST('/api/trials/{trial_id}/cancel', { params: trial(id) })),
  trialRuns: (
    id: number,
    query: { sort?: string; down?: boolean; where?: string[]; kept?: boolean; first?: number; count?: number },
    signal?: AbortSignal,
  ) => of(server.GET('/api/trials/{trial_id}/runs', { params: { ...trial(id), query }, signal })),
  trialRun: (id: number, number: number, signal?: AbortSignal) =>
    of(server.GET('/api/trials/{trial_id}/runs/{number}', { params: { path: { trial_id: id, number } }, signal })),
  trialMap: (id: number, query: { x: string; y: string; figure: string } & Together, signal?: AbortSignal) =>
    of(server.GET('/api/trials/{trial_id}/map', { params: { ...trial(id), query }, signal })),
  trialEffects: (id: number, query: { figure: string } & Together, signal?: AbortSignal) =>
    of(server.GET('/api/trials/{trial_id}/effects', { params: { ...trial(id), query }, signal })),
  trialFront: (id: number, query: { x: string; y: string }, signal?: AbortSignal) =>
    of(server.GET('/api/trials/{trial_id}/front', { params: { ...trial(id), query }, signal })),
  trialGood: (id: number, query: { share?: number; figure?: string }, signal?: AbortSignal) =>
    of(server.GET('/api/trials/{trial_id}/good', { params: { ...trial(id), query }, signal })),
  adoptRun: (id: number, run: number, pin: boolean) =>
    of(server.POST('/api/trials/{trial_id}/adopt', { params: trial(id), body: { run, pin } })),
  trialFile: (id: number, kind: 'csv' | 'xlsx' | 'parquet' | 'study') =>
    address('/api/trials/{trial_id}/file', { ...trial(id), query: { kind } }),
  job: (id: string) => of(server.GET('/api/jobs/{job_id}', { params: { path: { job_id: id } } })),
  cancelJob: (id: string) => of(server.DELETE('/api/jobs/{job_id}', { params: { path: { job_id: id } } })),
}
