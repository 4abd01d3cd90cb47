import { useEffect, useRef, useState } from 'react'
import { useMutation } from '@tanstack/react-query'
import { Problem, sentencesOf } from './api'
import { useRefresh, useRig } from './rig'

type Said = { revision?: number | null; what?: string | null }

type How<A, D> = {
  /** The call to the server. */
  call: (asked: A) => Promise<D>
  /** What is said once it is kept; when left out, the revision and what changed, where the answer tells them; null says nothing. */
  said?: ((done: D, asked: A) => string | null) | null
  /** What follows, before anything is asked anew. */
  done?: (done: D, asked: A) => unknown
  /** What follows once all was asked anew: what is done next is done to what is there now. */
  after?: (done: D, asked: A) => unknown
  /** What follows when another edit came first; when left out it is said and all is asked anew. */
  stale?: (asked: A, error: Problem) => unknown
  /** What was just answered and need not be asked anew. */
  but?: readonly unknown[]
  /** Says what is wrong in the bar, for edits that have no field to say it at. */
  aloud?: boolean
  /** Not tried again by itself when the connection is lost: it says on which revision it was made nowhere, and would be made twice. */
  once?: boolean
}

/**
 * Makes an edit: says that it is kept, asks anew for what it changed, follows another window's edit, and tries again when the
 * connection is lost. What was wrong stands in `problem`, sentence by sentence.
 */
export function useEdit<A, D>({ call, said, done, after, stale, but, aloud, once }: How<A, D>) {
  const { say } = useRig()
  const refresh = useRefresh()
  const [problem, setProblem] = useState<string[]>([])
  const retry = useRef<ReturnType<typeof setTimeout>>(undefined)
  useEffect(() => () => clearTimeout(retry.current), [])
  const edit = useMutation({
    mutationFn: call,
    onMutate: () => setProblem([]),
    onSuccess: async (answer, asked) => {
      const words = said === null ? null : said ? said(answer, asked) : kept(answer as Said | undefined)
      if (words) say(words)
      await done?.(answer, asked)
      await refresh(but)
      await after?.(answer, asked)
    },
    onError: async (e, asked) => {
      if (e instanceof Problem && e.status === 409) {
        if (stale) await stale(asked, e)
        else {
          say(`${e.message} Here is the new state; what you typed is still in its fields.`)
          await refresh()
        }
        return
      }
      setProblem(sentencesOf(e))
      if (e instanceof Problem) {
        if (aloud) say(e.sentences.join(' '))
        return
      }
      if (once) {
        say('No connection to the bench. Try again when it is back.')
        return
      }
      clearTimeout(retry.current)
      retry.current = setTimeout(() => edit.mutate(asked), 2000)
    },
  })
  return { ...edit, keep: edit.mutate, busy: edit.isPending, problem }
}

const kept = (answer: Said | undefined) =>
  answer?.revision ? `Kept as revision ${answer.revision}${answer.what ? `: ${answer.what}` : ''}.` : null
