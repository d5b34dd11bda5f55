import createClient from 'openapi-fetch'

import type { components, paths } from './schema'

type Schemas = components['schemas']
export type Pack = Schemas['Pack']
/** What is printed, wherever it lies. */
export type Panel = Schemas['Printed']
/** A label that lies on a pack. */
export type Label = Pack['panels'][number]
export type Layer = NonNullable<Panel['run']>[number]
export type Finding = Schemas['FindingOut']
export type StartingRun = Schemas['StartingRunOut']
export type PickedLabel = Schemas['PickedPanel']
export type LabelKind = 'around' | 'sleeve' | 'seal' | 'closure' | 'top'
/** A label as it was laid. */
export type Laid = Schemas['SheetOut']
export type StretchMap = Schemas['MapOut']
export type Placement = Schemas['Placement']
export type Corner = Schemas['Corner']
export type Vessel = Schemas['Vessel']
export type Body = Vessel['body']
export type Contents = NonNullable<Vessel['contents']>
export type Closure = NonNullable<Vessel['closure']>
export type Material = Schemas['Clear'] | Schemas['Cloudy'] | Schemas['Opaque'] | Schemas['Metal']
export type Grain = Schemas['Grain']
export type Pictures = Schemas['Pictures']
export type Fade = Schemas['Fade']
export type Film = Schemas['Film']
/** What a part is made of: said in full, or as an entry of the job's palette. */
export type Made = Material | Schemas['Linked']
export type StartingMaterials = Schemas['MaterialsOut']
/** A material of the library. */
export type Known = Schemas['KnownOut']
export type SurfacePicture = Schemas['SurfacePictureOut']
export type StudioColour = Schemas['StudioColourOut']
export type Palette = Schemas['Palette']
export type BrandColour = Schemas['BrandColour']
export type Colourway = Schemas['Colourway']
export type Purpose = Schemas['Purpose']
export type PhotoSet = Schemas['PhotoSet']
export type Light = PhotoSet['lights'][number]
/** What is all around a set. */
export type Surround = PhotoSet['surround']
export type Behind = PhotoSet['behind']
export type StudioCard = NonNullable<Schemas['StudioSurround']['cards']>[number]
export type StartingSurround = Schemas['StartingSurroundOut']
/** A picture of everything around as it is kept. */
export type Panorama = Schemas['PanoramaOut']
/** A surround as a flat map, and where its sun is. */
export type AroundMap = Schemas['AroundMapOut']
/** Lights for a purpose. */
export type SetUpWords = Schemas['SetUpOut']
/** Lights that the studio has kept. */
export type OwnSetUp = Schemas['OwnSetUpOut']
/** Where a light is, mm. */
export type HungLight = Schemas['HungOut']
export type Shot = Schemas['Shot']
export type Camera = Schemas['Camera']
export type Carton = Schemas['Carton']
/** A pack that is a bottle, jar, tin or tube. */
export type VesselPack = Omit<Pack, 'form'> & { form: Vessel }
/** A pack that is folded from board. */
export type CartonPack = Omit<Pack, 'form'> & { form: Carton }
export type Received = Schemas['Received']
export type ReceivedPart = Received['parts'][number]
/** A pack that is a model somebody sent. */
export type ReceivedPack = Omit<Pack, 'form'> & { form: Received }
/** A model as it was read, and what goes into the palette with it. */
export type ReadModel = Schemas['ReadModelOut']
/** A vessel as it was shaped. */
export type Shape = Schemas['VesselOut']
/** A carton as it was folded. */
export type CartonShape = Schemas['CartonOut']
/** A received model as it was put together. */
export type ReceivedShape = Schemas['ReceivedOut']
export type AnyShape = Shape | CartonShape | ReceivedShape
/** A kind of prop that can be made. */
export type PropKind = Schemas['PropKindOut']
export type MadeProp = Schemas['MadeProp']
export type Prop = NonNullable<PhotoSet['props']>[string]
/** A prop as it is drawn. */
export type PropShape = Schemas['PropShapeOut']
/** Whatever stands on a set as it is drawn. */
export type DrawnShape = AnyShape | PropShape
/** How many of a pack stand in a carton. */
export type Packed = Schemas['PackedOut']
/** A blank as it was read from a drawing. */
export type ReadBlank = Schemas['ReadBlankOut']
export type FlatBlank = CartonShape['blanks'][number]
export type Facts = Schemas['FactsOut']
export type Section = Schemas['SectionMark']['section']
export type Relief = NonNullable<Body['relief']>[number]
export type Finish = Schemas['Finish']
export type StartingPoint = Schemas['StartingPointOut']
export type Tracing = Schemas['Tracing']
export type PartState = Schemas['PartState']
export type Plan = Schemas['PlanOut']
export type View = Schemas['ViewOut']
export type Arrangement = Schemas['ArrangeIn']['how']
export type Standing = NonNullable<PhotoSet['standing']>[number]
export type Pose = NonNullable<Standing['pose']>
export type Thumbnail = Schemas['ThumbnailOut']
export type ClientAnswer = Schemas['AnswerOut']
export type Removed = Schemas['RemovedOut']
export type Job = Schemas['JobOut']
export type JobDetail = Schemas['JobDetailOut']
export type Artwork = Schemas['ArtworkOut']
export type BarcodeIn = Schemas['BarcodeIn']
export type Order = Schemas['OrderOut']
/** What the live channel tells of an order. */
export type OrderNews = Pick<
  Order,
  | 'id'
  | 'state'
  | 'wish'
  | 'samples'
  | 'samples_done'
  | 'noise'
  | 'seconds'
  | 'progress'
  | 'remaining_seconds'
  | 'message'
  | 'waiting'
>
export type Picture = Schemas['PictureOut']
export type ClientPage = Schemas['ClientPageOut']

/** The colourway that replaces nothing. */
export const AS_IT_IS: Colourway = { schema_version: 1, entries: {}, artwork: {}, texts: {}, contents: {}, fill: {} }

/** What the server says when something cannot be done. */
export interface Refusal {
  message: string
  place: string
  current?: number | null
  kept?: number | null
}

/** An answer that is not what was asked for. */
export class Refused extends Error {
  constructor(
    readonly status: number,
    readonly refusal: Refusal,
  ) {
    super(refusal.message)
  }
}

export const NO_ANSWER = 'The studio does not answer. Your work stays on this page and is saved when it is back.'

function cookie(name: string): string {
  return document.cookie.match(new RegExp(`(?:^|; )${name}=([^;]*)`))?.[1] ?? ''
}

/** What changes need to come from this page. */
export const token = (): string => cookie('csrftoken')

const withToken: typeof fetch = (input, init) => {
  const request = new Request(input, init)
  if (request.method !== 'GET') request.headers.set('X-CSRFToken', token())
  return fetch(request)
}

export const api = createClient<paths>({ baseUrl: '', fetch: withToken })

/** The data of an answer; throws `Refused` with the server's words otherwise. */
export async function answer<T>(call: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let result
  try {
    result = await call
  } catch {
    throw new Refused(0, { message: NO_ANSWER, place: '' })
  }
  if (result.response.ok && result.data !== undefined) return result.data
  if (result.response.status === 401) location.assign(`/sign-in/?next=${encodeURIComponent(location.pathname)}`)
  throw new Refused(result.response.status, asRefusalOf(result.error, result.response.status))
}

/** Send something the typed client does not cover (files, pictures). */
export async function send(address: string, init: RequestInit): Promise<Response> {
  let response
  try {
    response = await withToken(new URL(address, location.origin), init)
  } catch {
    throw new Refused(0, { message: NO_ANSWER, place: '' })
  }
  if (response.ok) return response
  const body: unknown = await response.json().catch(() => null)
  throw new Refused(response.status, asRefusalOf(body, response.status))
}

/** What an answer that is not what was asked for says. */
export function asRefusalOf(body: unknown, status: number): Refusal {
  if (body && typeof body === 'object' && 'message' in body) return body as Refusal
  return { message: `The studio could not do that (answer ${status}). Try again.`, place: '' }
}

/** A person's words for whatever went wrong. */
export function wordsFor(error: unknown): string {
  return error instanceof Error ? error.message : String(error)
}
