import createClient from 'openapi-fetch'
import type { components, paths } from './schema'

export type Schemas = components['schemas']
export type View = Schemas['View']
export type CheckState = Schemas['CheckState']
export type Judged = Schemas['Judged']
export type Problem = Schemas['Problem']
export type Figure = Schemas['Figure']
export type Fact = Schemas['Fact']
export type Field = Schemas['Field']
export type Tool = Schemas['ToolView']

/** How long an answer may take, ms; then the server counts as away. */
const patience = 15_000
export const api = createClient<paths>({
  baseUrl: '',
  fetch: (r: Request) => fetch(r, { signal: AbortSignal.any([r.signal, AbortSignal.timeout(patience)]) }),
})

/** Called when the server says that nobody, or another person, is signed in. */
let signedOut = () => {}
export const onSignedOut = (then: () => void) => (signedOut = then)

/** An error that says what to do: the server's problem, or that it is away. */
export class ApiError extends Error {
  constructor(
    readonly problem: Problem | null,
    readonly status: number,
  ) {
    super(
      problem?.detail ?? problem?.title ?? 'The server is away. What you typed is kept here and sent when it is back.',
    )
  }
}

/** What is wrong with what was handed in, by field and in words; without fields the error itself. */
export function faults(x: unknown): { field: string; words: string }[] {
  const errors = x instanceof ApiError ? x.problem?.errors : undefined
  return (
    errors?.map((e) => ({ field: e.field, words: `${e.problem}; ${e.want}` })) ?? [
      { field: '', words: (x as Error).message },
    ]
  )
}
export const faultLine = (f: { field: string; words: string }) => (f.field ? `${f.field}: ${f.words}` : f.words)

/** Takes the data out of an answer, or throws what went wrong. */
export async function take<T>(answer: Promise<{ data?: T; error?: unknown; response: Response }>): Promise<T> {
  let a
  try {
    a = await answer
  } catch {
    throw new ApiError(null, 0)
  }
  if (a.data === undefined) {
    const problem = (a.error as Problem) ?? null
    if (a.response.status === 401 || problem?.type === 'of-another') signedOut()
    throw new ApiError(problem, a.response.status)
  }
  return a.data
}

export type CalcName = keyof Schemas['CalculationInputs'] & string
/** What a calculation gives: its outputs by name, and beside them what was asked for. */
export type CalcOutput<K extends CalcName> = Schemas['CalcResult'] & Schemas['CalculationOutputs'][K]
type Loose<T> = { [P in keyof T]?: T[P] extends (infer E)[] ? Loose<E>[] : T[P] extends object ? Loose<T[P]> : T[P] }

/** Computes; the server fills in what is not given, and says what cannot be left out. */
export async function compute<K extends CalcName>(
  name: K,
  input: Loose<Schemas['CalculationInputs'][K]> & { u?: Record<string, number> },
): Promise<CalcOutput<K>> {
  // The one place where an answer gets the type that the server's document gives it.
  return (await take(
    api.POST('/api/calc/{name}', { params: { path: { name } }, body: input as never }),
  )) as CalcOutput<K>
}

/** Sends a file as it is; the generated client only speaks JSON. */
export async function sendFile<T>(url: string, body: Blob, type: string): Promise<T> {
  return take(
    fetch(url, {
      method: 'POST',
      headers: { 'Content-Type': type },
      body,
      signal: AbortSignal.timeout(8 * patience),
    }).then(async (response) => {
      const data = await response.json().catch(() => undefined)
      return response.ok ? { data: data as T, response } : { error: data as unknown, response }
    }),
  )
}
