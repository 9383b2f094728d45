import createClient, { type Middleware } from 'openapi-fetch'
import type { components, paths } from './schema'

export type Schemas = components['schemas']

/** What a call's address may ask for. Words out of the console's own address are checked by the service. */
export type Query<Path extends keyof paths> = paths[Path] extends { get: { parameters: { query?: infer Q } } }
  ? NonNullable<Q>
  : never

/** The path that the console's addresses are below, without a slash at its end; mostly empty. */
export function basePath(): string {
  const declared = globalThis.document?.querySelector('base')?.getAttribute('href') ?? '/'
  return declared.replace(/\/$/, '')
}

/** A problem document (RFC 9457) as the service sends it. */
export type Problem = {
  type: string
  title: string
  status: number
  detail: string
  candidates?: string[]
  nearest?: string[]
}

/** Thrown by every call that the service did not answer with success. */
export class ProblemError extends Error {
  readonly problem: Problem

  constructor(problem: Problem) {
    super(problem.detail)
    this.problem = problem
  }
}

const UNREACHABLE: Problem = {
  type: 'unreachable',
  title: 'The service does not answer',
  status: 0,
  detail: 'check that it runs, then try again',
}

/** Adds the token that guards changes against forged requests. */
const forgeryToken: Middleware = {
  onRequest({ request }) {
    if (request.method !== 'GET') request.headers.set('X-XSRF-TOKEN', cookie('XSRF-TOKEN'))
    return request
  },
  onError: () => new ProblemError(UNREACHABLE),
}

/** The service's interface, typed by its published description. */
export const api = createClient<paths>({
  baseUrl: basePath() === '' ? (globalThis.location?.origin ?? '') : document.baseURI.replace(/\/$/, ''),
  // Looked up at each call, so that a test may put another in its place.
  fetch: (request) => globalThis.fetch(request),
})
api.use(forgeryToken)

type Reply<T> = { data?: T; error?: unknown; response: Response }

/**
 * The answer of a call, or its problem thrown.
 *
 * Answers are described as JSON of any media type, so their type is that of the description's `*` entry.
 */
export async function answered<T>(call: Promise<Reply<T>>): Promise<T> {
  const { data, error, response } = await call
  if (response.ok) return data as T
  throw new ProblemError(problemOf(error, response))
}

const MAX_ASKED = 6

/**
 * Comes back when queries show what an answer gave this receipt for. A busy service answers before that, and what is
 * asked for then would show the old for good. Stops waiting after a minute, or when the service is away.
 */
export async function visible(stated: { receipt?: string }): Promise<void> {
  if (!stated.receipt) return
  const query = { limit: 1, after: stated.receipt }
  for (let asked = 0; asked < MAX_ASKED; asked++) {
    const reply = await api.GET('/api/v1/search', { params: { query } }).catch(() => undefined)
    if (reply?.response.status !== 503) return
  }
}

function problemOf(error: unknown, response: Response): Problem {
  if (typeof error === 'object' && error !== null && 'detail' in error) return error as Problem
  return {
    type: 'unknown',
    title: `The service answered ${response.status}`,
    status: response.status,
    detail: 'its log may have the reason',
  }
}

function cookie(name: string): string {
  const pair = document.cookie.split('; ').find((part) => part.startsWith(`${name}=`))
  return pair ? decodeURIComponent(pair.slice(name.length + 1)) : ''
}
