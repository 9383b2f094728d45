import { afterEach, describe, expect, it, vi } from 'vitest'
import { answered, api, ProblemError, visible } from './client'

afterEach(() => vi.unstubAllGlobals())

function reply(status: number, body: string, type = 'application/json') {
  const fetched = vi.fn(
    async (_: Request) => new Response(body, { status, headers: { 'Content-Type': type } }),
  )
  vi.stubGlobal('fetch', fetched)
  return fetched
}

const search = () => answered(api.GET('/api/v1/search', { params: { query: { q: 'a b', kind: undefined } } }))

async function problemOf(call: Promise<unknown>) {
  const error = await call.then(
    () => undefined,
    (thrown) => thrown,
  )
  expect(error).toBeInstanceOf(ProblemError)
  return (error as ProblemError).problem
}

describe('a call', () => {
  it('is asked with what is set and no more', async () => {
    const fetched = reply(200, '{"hits":[],"total":0}')
    expect(await search()).toMatchObject({ total: 0 })
    const url = new URL(fetched.mock.calls[0][0].url)
    expect(Object.fromEntries(url.searchParams)).toEqual({ q: 'a b' })
  })

  it('that changes something carries the token against forged requests', async () => {
    // biome-ignore lint/suspicious/noDocumentCookie: as the service sets it
    document.cookie = 'XSRF-TOKEN=a%2Fb'
    const fetched = reply(200, '{"tried":0,"accepted":0,"refused":[],"receipt":"1"}')
    await answered(api.POST('/api/v1/intake/refused/retry'))
    expect(fetched.mock.calls[0][0].headers.get('X-XSRF-TOKEN')).toBe('a/b')
    await search()
    expect(fetched.mock.calls[1][0].headers.get('X-XSRF-TOKEN')).toBeNull()
  })

  it('that fails throws the problem in the service’s words', async () => {
    const problem = { type: 't', title: 'No such asset', status: 404, detail: 'x', nearest: ['y'] }
    reply(404, JSON.stringify(problem), 'application/problem+json')
    expect(await problemOf(search())).toMatchObject(problem)
  })

  it('answered by something else says what it was', async () => {
    reply(502, '<html>bad gateway</html>', 'text/html')
    expect(await problemOf(search())).toMatchObject({ status: 502, title: 'The service answered 502' })
  })

  it('without a service says so', async () => {
    vi.stubGlobal('fetch', () => Promise.reject(new TypeError('refused')))
    expect(await problemOf(search())).toMatchObject({ status: 0, title: 'The service does not answer' })
  })
})

describe('what was stated', () => {
  it('is waited for while the service is behind, and no longer', async () => {
    const statuses = [503, 503, 200, 200]
    const fetched = vi.fn(
      async (_: Request) =>
        new Response('{}', {
          status: statuses.shift(),
          headers: { 'Content-Type': 'application/json' },
        }),
    )
    vi.stubGlobal('fetch', fetched)
    await visible({ receipt: '7' })
    expect(fetched).toHaveBeenCalledTimes(3)
    expect(new URL(fetched.mock.calls[0][0].url).searchParams.get('after')).toBe('7')
  })

  it('is not waited for without a receipt, or when the service is away', async () => {
    const away = vi.fn(() => Promise.reject(new TypeError('refused')))
    vi.stubGlobal('fetch', away)
    await visible({})
    expect(away).not.toHaveBeenCalled()
    await visible({ receipt: '7' })
    expect(away).toHaveBeenCalledTimes(1)
  })
})
