import { newKey } from './keys'
import createClient from 'openapi-fetch'
import type { components, paths } from './schema'

export type Schemas = components['schemas']
export type Rig = Schemas['RigView']
export type Sense = Schemas['SenseView']
export type Program = Schemas['ProgramView']
export type Finding = Schemas['Finding']
export type Run = Schemas['RunView']
export type Proof = Schemas['ProofView']

export const client = createClient<paths>({ baseUrl: window.location.origin })

/** This tab, so that it is not told of its own edits. */
export const tabId = newKey()

/** What the server said was wrong, in words for people. */
export class Problem extends Error {
  constructor(
    readonly status: number,
    title: string,
    readonly fields: Record<string, string[]>,
    readonly detail?: string,
  ) {
    super(title)
  }

  /** Every sentence, for a list. */
  get sentences(): string[] {
    const all = Object.values(this.fields).flat()
    return all.length > 0 ? all : [this.message, ...(this.detail ? [this.detail] : [])]
  }
}

type Answer<T> = { data?: T; error?: unknown; response: Response }

/** Unwraps an answer; throws a Problem, or a TypeError when there is no connection. */
export async function unwrap<T>(call: Promise<Answer<T>>): Promise<T> {
  const { data, error, response } = await call
  if (response.ok) return data as T
  const problem = (typeof error === 'object' && error !== null ? error : {}) as {
    title?: string
    detail?: string
    errors?: Record<string, string[]>
  }
  const title =
    problem.title ?? (response.status === 413 ? 'That is too much at once: at most 4 MB.' : `The server answered ${response.status}.`)
  throw new Problem(response.status, title, problem.errors ?? {}, problem.detail)
}

/** Words for any failure. */
export function sentencesOf(error: unknown): string[] {
  if (error instanceof Problem) return error.sentences
  return ['No connection to the bench. What you typed is still here; it will be tried again.']
}
