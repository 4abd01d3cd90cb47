import { useEffect, useRef, useState } from 'react'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { client, Problem, sentencesOf, tabId, unwrap, type Finding, type Program } from '../../app/api'
import { useEdit } from '../../app/edit'
import { programKey, useProgramIndex, useRefresh, useRig } from '../../app/rig'
import { keepDraft, restoreDraft, type Draft } from './drafts'
import { relocated, type Act } from './sheet'

export type { Draft } from './drafts'
const home = (rig: string, program: number | undefined) => (program === undefined ? rig : `${rig}~${program}`)

/** An edit on its way: what is done, to what, and the draft it was typed in. */
type Edit = { act: Act; line: number; text: string | null; base: number; of: Draft | null; instead?: boolean }

export type Conflict = { edit: Edit; theirs: Program }

/** Keeps edits of the program: what is typed survives a reload, a lost connection and another window's edit. */
export function useSheet(program: Program | undefined, onKept: (line: number) => void) {
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
  // Asked for while another line was still on its way: it follows, on the revision that one made.
  const wanted = useRef(false)
  const [under, setUnder] = useState(0)
  const setDraft = (next: Draft | null) => {
    current.current = next
    if (!next) wanted.current = false
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
    const moved = relocated(open, program)
    if (moved) setDraft(moved)
    else if (open.text.trim() === (open.act === 'set' ? open.was.trim() : '')) setDraft(null)
    else setConflict({ edit: editOf(open, open.text), theirs: program })
    // setDraft is made anew with every render and only writes.
    // eslint-disable-next-line
  }, [script])

  const editOf = (of: Draft, text: string): Edit => ({ act: of.act, line: of.line, text, base: of.revision, of })

  const save = useMutation({
    mutationFn: ({ act, line, text, base, instead }: Edit) =>
      unwrap(
        client.POST('/api/rigs/{id}/program/edit', {
          params: { path: { id: rig.id } },
          body: { act, line, text, baseRevision: base, copy: rig.copy, by: tabId, program: which ?? null, instead: instead ?? null },
        }),
      ),
    onMutate: ({ of }) => {
      keeping.current.push(of)
      setUnder(keeping.current.length)
    },
    onSuccess: async (done, { of }) => {
      say(`Kept as revision ${done.revision}.`)
      // What the server has need not be kept here: a reload from now on must not bring it back.
      if (current.current === of) keepDraft(home(rig.id, which), null)
      await queries.cancelQueries({ queryKey: programKey(rig.id, rig.copy, which) })
      // Answers may come in another order than they were asked for.
      queries.setQueryData<Program>(programKey(rig.id, rig.copy, which), (known) =>
        known && known.revision > done.program.revision ? known : done.program,
      )
      // A line begun while this one was being kept is not this one's to close.
      if (current.current === of) {
        setDraft(null)
        onKept(done.line)
      }
      setConflict(null)
      // Not waited for: the next line may be typed already.
      void refresh(programKey(rig.id, rig.copy, which))
    },
    onSettled: (_done, _error, { of }) => {
      keeping.current.splice(keeping.current.indexOf(of), 1)
      setUnder(keeping.current.length)
    },
    onError: async (error, edit) => {
      if (error instanceof Problem && error.status === 409) {
        const theirs = await unwrap(
          client.GET('/api/rigs/{id}/program', { params: { path: { id: rig.id }, query: { copy: rig.copy, program: which } } }),
        )
        if (edit.of) setConflict({ edit, theirs })
        else {
          queries.setQueryData(programKey(rig.id, rig.copy, which), theirs)
          say('That was changed in another window meanwhile. Here is how it stands now.')
        }
      } else if (error instanceof Problem) {
        setProblem(error.sentences)
        if (!edit.of) say(error.sentences.join(' '))
      } else {
        setProblem(sentencesOf(error))
        clearTimeout(retry.current)
        retry.current = setTimeout(() => save.mutate(edit), 2000)
      }
    },
  })

  /** Keeps the open line as typed. */
  const keep = (text: string) => {
    const open = current.current
    if (!program || !open) return
    if (keeping.current.length > 0 && !keeping.current.includes(open)) {
      wanted.current = true
      setUnder(-1)
      return
    }
    if (open.act === 'set' ? text.trim() === open.was.trim() : text.trim() === '') {
      setDraft(null)
      onKept(open.line)
    } else save.mutate(editOf(open, text))
  }

  useEffect(() => {
    if (!wanted.current || keeping.current.length > 0) return
    wanted.current = false
    if (current.current && !conflict) keep(current.current.text)
    // keep is made anew with every render.
    // eslint-disable-next-line
  }, [under])

  /** Does something to a line, state or region. What was typed in it is kept first. */
  const act = async (what: Act, line: number) => {
    const open = current.current
    if (!program) return
    if (open && open.act === 'set' && open.line === line && open.text.trim() !== open.was.trim() && what !== 'takeOut') {
      const done = await save.mutateAsync(editOf(open, open.text)).catch(() => null)
      if (done) save.mutate({ act: what, line: done.line, text: null, base: done.revision, of: null })
      return
    }
    if (open && open.line === line) setDraft(null)
    save.mutate({ act: what, line, text: null, base: program.revision, of: null })
  }

  const cure = useEdit({
    call: (finding: Finding) =>
      unwrap(
        client.POST('/api/rigs/{id}/program/cure', {
          params: { path: { id: rig.id } },
          body: { baseRevision: program!.revision, code: finding.code, line: finding.line, copy: rig.copy, by: tabId },
        }),
      ),
    aloud: true,
  })

  const settle = (useMine: boolean) => {
    if (!conflict) return
    queries.setQueryData(programKey(rig.id, rig.copy, which), conflict.theirs)
    const open = current.current
    if (useMine) save.mutate({ ...conflict.edit, text: open?.text ?? conflict.edit.text, of: open, instead: true })
    else {
      setConflict(null)
      setDraft(null)
      void refresh()
    }
  }

  return {
    draft,
    setDraft,
    keep,
    act,
    busy: draft !== null && (wanted.current || keeping.current.includes(draft)),
    problem,
    conflict,
    settle,
    cure,
  }
}
