import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { render } from '@testing-library/react'
import type { ReactNode } from 'react'
import { MemoryRouter, useLocation } from 'react-router'
import { vi } from 'vitest'

type Reply = unknown | { status: number; body: unknown }

/** Answers the service's calls by the start of their path, and notes what was asked. */
export function stubService(replies: Record<string, Reply>): string[] {
  const asked: string[] = []
  vi.stubGlobal('fetch', async (request: Request) => {
    const { pathname, search } = new URL(request.url)
    const url = pathname + search
    asked.push(url)
    const path = Object.keys(replies)
      .filter((start) => url.startsWith(`/api/v1/${start}`))
      .sort((a, b) => b.length - a.length)[0]
    const reply = path === undefined ? { status: 404, body: { title: 'none', detail: url } } : replies[path]
    const { status, body } = isWhole(reply) ? reply : { status: 200, body: reply }
    const text = typeof body === 'string' ? body : JSON.stringify(body)
    return new Response(text, { status, headers: { 'Content-Type': 'application/json' } })
  })
  return asked
}

function isWhole(reply: Reply): reply is { status: number; body: unknown } {
  return typeof reply === 'object' && reply !== null && 'status' in reply && 'body' in reply
}

/** Shows a page at an address, with the address written below it. */
export function showPage(page: ReactNode, address: string) {
  const queries = new QueryClient({ defaultOptions: { queries: { retry: false } } })
  return render(
    <QueryClientProvider client={queries}>
      <MemoryRouter initialEntries={[address]}>
        {page}
        <Address />
      </MemoryRouter>
    </QueryClientProvider>,
  )
}

function Address() {
  const location = useLocation()
  return <output aria-label="address">{location.pathname + location.search}</output>
}
