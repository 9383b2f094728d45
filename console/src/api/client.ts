import type { components } from './schema'

export type Schemas = components['schemas']

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

export type Query = Record<string, string | number | boolean | undefined>

/** A path with its query; parameters that are undefined or empty are left out. */
export function withQuery(path: string, query: Query): string {
  const parameters = new URLSearchParams()
  for (const [name, value] of Object.entries(query)) {
    if (value !== undefined && value !== '') parameters.set(name, String(value))
  }
  const text = parameters.toString()
  return text ? `${path}?${text}` : path
}

async function answered<T>(request: Promise<Response>): Promise<T> {
  let response: Response
  try {
    response = await request
  } catch {
    throw new ProblemError({
      type: 'unreachable',
      title: 'The service does not answer',
      status: 0,
      detail: 'check that it runs, then try again',
    })
  }
  const text = await response.text()
  if (response.ok) return (text ? JSON.parse(text) : undefined) as T
  throw new ProblemError(problemOf(response, text))
}

function problemOf(response: Response, text: string): Problem {
  try {
    return JSON.parse(text) as Problem
  } catch {
    const title = `The service answered ${response.status}`
    return { type: 'unknown', title, status: response.status, detail: 'its log may tell why' }
  }
}

/** Asks the service; the answer's type is the caller's word for what the interface describes. */
export function get<T>(path: string, query: Query = {}, signal?: AbortSignal): Promise<T> {
  return answered<T>(
    fetch(withQuery(`/api/v1/${path}`, query), { headers: { Accept: 'application/json' }, signal }),
  )
}

/** Sends a change, with the token that guards against forged requests. */
export function send<T>(method: 'POST' | 'DELETE', path: string, body?: unknown): Promise<T> {
  return answered<T>(
    fetch(`/api/v1/${path}`, {
      method,
      headers: { 'Content-Type': 'application/json', 'X-XSRF-TOKEN': cookie('XSRF-TOKEN') },
      body: body === undefined ? undefined : JSON.stringify(body),
    }),
  )
}

function cookie(name: string): string {
  const pair = document.cookie.split('; ').find((part) => part.startsWith(`${name}=`))
  return pair ? decodeURIComponent(pair.slice(name.length + 1)) : ''
}
