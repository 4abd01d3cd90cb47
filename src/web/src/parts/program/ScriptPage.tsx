import { useEffect, useRef, useState } from 'react'
import { useLocation } from 'react-router'
import Button from '@mui/material/Button'
import { autocompletion, completionKeymap, type CompletionContext } from '@codemirror/autocomplete'
import { defaultKeymap, history, historyKeymap, indentWithTab } from '@codemirror/commands'
import { codeFolding, foldGutter, foldKeymap, foldService, HighlightStyle, StreamLanguage, syntaxHighlighting } from '@codemirror/language'
import { forceLinting, linter, lintGutter, lintKeymap, setDiagnostics } from '@codemirror/lint'
import { highlightSelectionMatches, search, searchKeymap } from '@codemirror/search'
import { EditorState } from '@codemirror/state'
import { drawSelection, EditorView, highlightActiveLine, keymap, lineNumbers } from '@codemirror/view'
import { tags } from '@lezer/highlight'
import { useQuery } from '@tanstack/react-query'
import { client, unwrap, type Schemas } from '../../app/api'
import { useProgram, useProgramIndex, useRig } from '../../app/rig'
import { ConflictDialog } from './ConflictDialog'
import { useScript } from './useScript'
import { Views } from './Views'
import { Moment } from '../../shared/Moment'

const nonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content

type Language = Schemas['LanguageView']

const letter = (c: string | undefined) => c !== undefined && c.toLowerCase() !== c.toUpperCase()
const digit = (c: string | undefined) => c !== undefined && c >= '0' && c <= '9'

// Words of the language, numbers with their units, texts and comments; names stay as they are. What a word is the server says.
function colouring({ keywords, units, comment }: Language) {
  const known = new Set(keywords)
  const longest = [...units].sort((a, b) => b.length - a.length)
  return StreamLanguage.define<object>({
    token: (stream) => {
      if (stream.eatSpace()) return null
      const first = stream.peek() ?? undefined
      if (first === comment) {
        stream.skipToEnd()
        return 'comment'
      }
      if (first === '"') {
        stream.next()
        while (!stream.eol()) if (stream.next() === '"') break
        return 'string'
      }
      if (digit(first)) {
        stream.eatWhile((c) => digit(c) || c === '.')
        const rest = stream.string.slice(stream.pos)
        const blank = rest.startsWith(' ') ? 1 : 0
        const unit = longest.find((u) => rest.startsWith(u, blank) && !letter(rest[blank + u.length]))
        if (unit) stream.pos += blank + unit.length
        return 'number'
      }
      if (letter(first)) {
        const from = stream.pos
        stream.eatWhile((c) => letter(c) || digit(c))
        return known.has(stream.string.slice(from, stream.pos)) ? 'keyword' : 'variableName'
      }
      stream.next()
      return null
    },
  })
}

const look = EditorView.theme({
  '&': { fontSize: '14.5px', backgroundColor: 'var(--paper)', color: 'var(--ink)', border: '1px solid var(--edge)', borderRadius: '7px' },
  '&.cm-focused': { outline: '2px solid var(--ink)', outlineOffset: '2px' },
  '.cm-content': { fontFamily: 'var(--mono)', caretColor: 'var(--ink)', padding: '8px 0' },
  '.cm-gutters': { backgroundColor: 'var(--lime)', color: 'var(--muted)', border: 'none', borderRight: '1px solid var(--line)' },
  '.cm-activeLine, .cm-activeLineGutter': { backgroundColor: 'color-mix(in srgb, var(--mussel-wash) 45%, transparent)' },
  '.cm-cursor': { borderLeftColor: 'var(--ink)' },
  '.cm-selectionBackground, &.cm-focused .cm-selectionBackground': { backgroundColor: 'var(--mussel-wash) !important' },
  '.cm-tooltip, .cm-panels': { backgroundColor: 'var(--paper)', color: 'var(--ink)', border: '1px solid var(--edge)' },
  '.cm-tooltip-autocomplete ul li[aria-selected]': { backgroundColor: 'var(--ink)', color: 'var(--paper)' },
  '.cm-diagnostic-error': { borderLeft: '4px solid var(--red)' },
  '.cm-foldPlaceholder': { backgroundColor: 'var(--mussel-wash)', border: 'none', color: 'var(--ink)' },
  '.cm-panel input, .cm-panel button': { fontSize: '14px' },
})
const colours = HighlightStyle.define([
  { tag: tags.keyword, color: 'var(--mussel)', fontWeight: '600' },
  { tag: tags.number, color: 'var(--teal)' },
  { tag: tags.string, color: 'var(--weed)' },
  { tag: tags.comment, color: 'var(--muted)', fontStyle: 'italic' },
])

// What is indented deeper folds under its line.
const folding = ({ blocks }: Language) =>
  foldService.of((state, from) => {
    const line = state.doc.lineAt(from)
    const text = line.text.trimStart()
    if (!blocks.some((b) => text.startsWith(`${b} `))) return null
    const depth = line.text.length - text.length
    let end = line.to
    for (let n = line.number + 1; n <= state.doc.lines; n++) {
      const next = state.doc.line(n)
      if (next.text.trim() === '') continue
      if (next.text.length - next.text.trimStart().length <= depth) break
      end = next.to
    }
    return end > line.to ? { from: line.to, to: end } : null
  })

/** The same program as text. Each edit is kept when the hand rests; the sheet shows it at once. */
export default function ScriptPage() {
  const { rig } = useRig()
  const { hash } = useLocation()
  const program = useProgram().data
  const sheet = useScript(program)
  const language = useQuery({ queryKey: ['language'], staleTime: Infinity, queryFn: () => unwrap(client.GET('/api/language')) }).data
  const host = useRef<HTMLDivElement>(null)
  const view = useRef<EditorView>(null)
  const keep = useRef(sheet.keep)
  keep.current = sheet.keep
  const which = useRef<number | undefined>(undefined)
  which.current = useProgramIndex()
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined)
  const [waiting, setWaiting] = useState(false)
  const faults = program?.diagnostics.length ?? 0
  const ready = program !== undefined && language !== undefined

  useEffect(() => {
    if (!host.current || !program || !language) return
    const diagnose = (script: string, line: number | null, column: number | null) =>
      unwrap(
        client.POST('/api/rigs/{id}/program/diagnose', {
          params: { path: { id: rig.id } },
          body: { script, line, column, program: which.current ?? null },
        }),
      )
    const made = new EditorView({
      parent: host.current,
      state: EditorState.create({
        doc: program.script,
        extensions: [
          ...(nonce ? [EditorView.cspNonce.of(nonce)] : []),
          lineNumbers(),
          foldGutter(),
          history(),
          drawSelection(),
          highlightActiveLine(),
          highlightSelectionMatches(),
          search({ top: true }),
          lintGutter(),
          codeFolding(),
          folding(language),
          colouring(language),
          syntaxHighlighting(colours),
          look,
          EditorView.contentAttributes.of({ tabindex: '0', 'aria-label': 'Script of the program' }),
          keymap.of([
            {
              key: 'Mod-s',
              run: (v) => {
                clearTimeout(timer.current)
                setWaiting(false)
                keep.current(v.state.doc.toString())
                return true
              },
            },
            ...completionKeymap,
            ...searchKeymap,
            ...foldKeymap,
            ...lintKeymap,
            ...historyKeymap,
            ...defaultKeymap,
            indentWithTab,
          ]),
          autocompletion({
            override: [
              async (c: CompletionContext) => {
                const line = c.state.doc.lineAt(c.pos)
                const before = line.text.slice(0, c.pos - line.from)
                if (!c.explicit && !letter(before.at(-1)) && !digit(before.at(-1))) return null
                const { completions } = await diagnose(c.state.doc.toString(), line.number, before.length)
                if (completions.length === 0) return null
                const start = Math.min(...completions.map((x) => x.start))
                return {
                  from: line.from + start,
                  filter: false,
                  options: completions.filter((x) => x.start === start).map((x) => ({ label: x.text, detail: x.kind })),
                }
              },
            ],
          }),
          linter(
            async (v) => {
              const { diagnostics } = await diagnose(v.state.doc.toString(), null, null)
              return diagnostics
                .filter((d) => d.line <= v.state.doc.lines)
                .map((d) => {
                  const line = v.state.doc.line(d.line)
                  const from = Math.min(line.to, line.from + d.column - 1)
                  return {
                    from,
                    to: Math.min(line.to, from + d.length),
                    severity: 'error' as const,
                    message: d.message,
                    actions: d.suggestion
                      ? [
                          {
                            name: `Write “${d.suggestion}”`,
                            apply: (w: EditorView, a: number, b: number) =>
                              w.dispatch({ changes: { from: a, to: b, insert: d.suggestion! } }),
                          },
                        ]
                      : [],
                  }
                })
            },
            { delay: 250 },
          ),
          EditorView.updateListener.of((u) => {
            if (!u.docChanged || u.transactions.some((t) => t.isUserEvent('remote'))) return
            setWaiting(true)
            clearTimeout(timer.current)
            timer.current = setTimeout(() => {
              setWaiting(false)
              keep.current(u.view.state.doc.toString())
            }, 900)
          }),
        ],
      }),
    })
    view.current = made
    const leave = () => {
      clearTimeout(timer.current)
      keep.current(made.state.doc.toString())
    }
    made.contentDOM.addEventListener('blur', leave)
    return () => {
      made.contentDOM.removeEventListener('blur', leave)
      leave()
      made.destroy()
      view.current = null
    }
    // Made once; later scripts are put into it below.
    // eslint-disable-next-line
  }, [ready, rig.id])

  // What the server has made of it, or another window, goes in where it differs; the caret stays with its text.
  const script = program?.script
  useEffect(() => {
    const v = view.current
    if (!v || script === undefined || waiting || sheet.busy) return
    const old = v.state.doc.toString()
    if (old === script) return
    let start = 0
    while (start < old.length && start < script.length && old[start] === script[start]) start++
    let end = 0
    while (end < old.length - start && end < script.length - start && old[old.length - 1 - end] === script[script.length - 1 - end]) end++
    v.dispatch({ changes: { from: start, to: old.length - end, insert: script.slice(start, script.length - end) }, userEvent: 'remote' })
    v.dispatch(setDiagnostics(v.state, []))
    forceLinting(v)
  }, [script, waiting, sheet.busy])

  useEffect(() => {
    const line = hash.startsWith('#line-') ? Number(hash.slice('#line-'.length)) : 0
    const v = view.current
    if (!v || !(line >= 1) || line > v.state.doc.lines) return
    v.dispatch({ selection: { anchor: v.state.doc.line(line).from }, scrollIntoView: true })
    v.focus()
  }, [hash, ready])

  if (!program) return <Moment />
  return (
    <main>
      <div className="page">
        <Views at="script">
          <span className="push muted fine" aria-live="polite">
            {sheet.problem.length > 0
              ? sheet.problem.join(' ')
              : waiting || sheet.busy
                ? 'Not kept yet'
                : faults > 0
                  ? `Kept, with ${faults} ${faults === 1 ? 'fault' : 'faults'} to mend`
                  : 'Kept'}
          </span>
          <Button
            onClick={() => {
              const v = view.current
              if (v) {
                v.focus()
                v.contentDOM.dispatchEvent(new KeyboardEvent('keydown', { key: 'f', ctrlKey: true, bubbles: true }))
              }
            }}
          >
            Find and replace<kbd>Ctrl F</kbd>
          </Button>
        </Views>
        <div ref={host} data-testid="script" />
        <p className="fine muted" style={{ marginTop: 8 }}>
          One line says one thing; two blanks of indentation show what stands in what. Ctrl+Space lists what fits, Tab indents (press Escape
          first to leave with Tab), Ctrl+S keeps at once.
        </p>
      </div>
      {sheet.conflict && <ConflictDialog conflict={sheet.conflict} onSettle={sheet.settle} />}
    </main>
  )
}
