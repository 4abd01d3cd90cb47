import { useEffect, useRef, useState } from 'react'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { client, Problem, sentencesOf, tabId, unwrap, type Finding, type Program } from '../../app/api'
import { programKey, useProgramIndex, useRefresh, useRig } from '../../app/rig'
import { keepDraft, restoreDraft, type Draft } from './drafts'
import { applied, relocated } from './lines'

export type { Draft } from './drafts'
const home = (rig: string, program: number | undefined) => (program === undefined ? rig : `${rig}~${program}`)

export type Conflict = { mine: string; theirs: Program }

/** Keeps edits of the program: what is typed survives a reload, a lost connection and another window's edit. */
export function useSheet(program: Program | undefined) {
  const { rig, say } = useRig()
  const which = useProgramIndex()
  const queries = useQueryClient()
  const refresh = useRefresh()
  const [draft, setDraftState] = useState<Draft | null>(() => restoreDraft(home(rig.id, which)))
  const [conflict, setConflict] = useState<Conflict | null>(null)
  const [problem, setProblem] = useState<string[]>([])
  const retry = useRef<ReturnType<typeof setTimeout>>(undefined)
  useEffect(() => () => clearTimeout(retry.current), [])
  useEffect(() => {
    if (!draft) return
    const beat = setInterval(() => {
      if (!keeping.current.includes(draft)) keepDraft(home(rig.id, which), draft)
    }, 4000)
    return () => clearInterval(beat)
  }, [draft, rig.id, which])

  const current = useRef(draft)
  // Drafts on their way to the server, one entry a call: a second call may begin before the first one has ended.
  const keeping = useRef<(Draft | null)[]>([])
  const setDraft = (next: Draft | null) => {
    current.current = next
    setDraftState(next)
    setProblem([])
    keepDraft(home(rig.id, which), next)
  }

  // The program changed while a line was being typed: the line is followed, and if it is gone both versions are shown.
  const script = program?.script
  useEffect(() => {
    const open = current.current
    // The line being kept is the server's to answer; one begun meanwhile is followed like any other.
    if (!program || !open || keeping.current.includes(open) || open.base === script) return
    const moved = relocated(open, program.script)
    if (moved) setDraft(moved)
    else setConflict({ mine: applied(open.base, open, open.text), theirs: program })
    // setDraft is made anew with every render and only writes.
    // eslint-disable-next-line
  }, [script])

  const save = useMutation({
    // What goes to a state that is called otherwise follows: the server knows the program.
    mutationFn: ({ script, base, of }: { script: string; base: number; of: Draft | null }) =>
      unwrap(
        client.PUT('/api/rigs/{id}/program', {
          params: { path: { id: rig.id } },
          body: {
            script,
            baseRevision: base,
            copy: rig.copy,
            by: tabId,
            program: which ?? null,
            renames: of && !of.isNew && of.part === 'state' ? of.line : null,
          },
        }),
      ),
    onMutate: ({ of }) => {
      keeping.current.push(of)
    },
    onSettled: (_done, _error, { of }) => {
      keeping.current.splice(keeping.current.indexOf(of), 1)
    },
    onSuccess: async (done, { of }) => {
      say(`Kept as revision ${done.revision}.`)
      // What the server has need not be kept here: a reload from now on must not bring it back.
      if (current.current === of) keepDraft(home(rig.id, which), null)
      await refresh()
      // A line begun while this one was being kept is not this one's to close.
      if (current.current === of) setDraft(null)
      setConflict(null)
    },
    onError: async (error, { script, base, of }) => {
      if (error instanceof Problem && error.status === 409) {
        const theirs = await unwrap(
          client.GET('/api/rigs/{id}/program', { params: { path: { id: rig.id }, query: { copy: rig.copy, program: which } } }),
        )
        // Where the other window left this line alone, both edits stand.
        const moved = of && theirs.revision !== base ? relocated(of, theirs.script) : null
        if (moved) {
          queries.setQueryData(programKey(rig.id, rig.copy, which), theirs)
          setDraft(moved)
          save.mutate({ script: applied(theirs.script, moved, moved.text), base: theirs.revision, of: moved })
        } else setConflict({ mine: script, theirs })
      } else if (error instanceof Problem) setProblem(error.sentences)
      else {
        setProblem(sentencesOf(error))
        clearTimeout(retry.current)
        retry.current = setTimeout(() => save.mutate({ script, base, of }), 2000)
      }
    },
  })

  const keep = (script: string) => {
    if (!program) return
    if (script === program.script) setDraft(null)
    else save.mutate({ script, base: program.revision, of: current.current })
  }

  const cure = useMutation({
    mutationFn: (finding: Finding) =>
      unwrap(
        client.POST('/api/rigs/{id}/program/cure', {
          params: { path: { id: rig.id } },
          body: { baseRevision: program!.revision, code: finding.code, line: finding.line, copy: rig.copy, by: tabId },
        }),
      ),
    onSuccess: async (done) => {
      say(`Kept as revision ${done.revision}: ${done.what}.`)
      await refresh()
    },
    onError: async (error) => {
      say(sentencesOf(error).join(' '))
      await refresh()
    },
  })

  const settle = (useMine: boolean) => {
    if (!conflict) return
    queries.setQueryData(programKey(rig.id, rig.copy, which), conflict.theirs)
    if (useMine) save.mutate({ script: conflict.mine, base: conflict.theirs.revision, of: current.current })
    else {
      setConflict(null)
      setDraft(null)
      void refresh()
    }
  }

  return { draft, setDraft, keep, busy: save.isPending, problem, conflict, settle, cure }
}
