import { useEffect, useMemo, useRef, useState } from 'react'
import { useQueries, useQuery } from '@tanstack/react-query'
import { Link, useSearchParams } from 'react-router'
import Button from '@mui/material/Button'
import { client, tabId, unwrap, type Program, type Schemas } from '../../app/api'
import { useEdit } from '../../app/edit'
import { partKey, programKey, useRig } from '../../app/rig'
import { settings, useSettings } from '../../app/settings'
import { Sentence } from '../program/Sentence'
import { blocksOf, linesOf, type Block, type Line } from '../program/sheet'
import { Tide } from '../../shared/Tide'
import { Found } from './Found'
import { LookedAt } from './LookedAt'
import { Moment } from '../../shared/Moment'

export type FoundThing = Schemas['FindingView']

const harm = ['stops', 'risky', 'advice', 'holds']
const worse = (a: FoundThing, b: FoundThing) => harm.indexOf(a.severity) - harm.indexOf(b.severity)

/** What is wrong or risky before it runs: the sheet as it is, with every finding under its line. */
export default function CheckPage() {
  const { rig } = useRig()
  const { keys } = useSettings()
  const [params, setParams] = useSearchParams()
  const key = partKey(rig.id, 'check', rig.copy)
  const path = { path: { id: rig.id }, query: { copy: rig.copy } }
  const findings = useQuery({
    queryKey: [...key, 'findings'],
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/findings', { params: path })),
  })
  const looked = useQuery({
    queryKey: [...key, 'looked'],
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/findings/looked', { params: path })),
  })
  const program = (index?: number) => ({
    queryKey: programKey(rig.id, rig.copy, index),
    queryFn: () =>
      unwrap(client.GET('/api/rigs/{id}/program', { params: { path: { id: rig.id }, query: { copy: rig.copy, program: index } } })),
  })
  const main = useQuery(program())
  const running = (main.data?.programs ?? []).filter((p) => p.runs)
  const others = useQueries({ queries: running.filter((p) => p.index !== main.data?.index).map((p) => program(p.index)) })
  const programs = [main.data, ...others.map((o) => o.data)].filter((p): p is Program => p !== undefined).sort((a, b) => a.index - b.index)

  const open = useMemo(
    () => [...(findings.data ?? [])].filter((f) => f.silenced === null && f.because === null).sort(worse),
    [findings.data],
  )
  const aside = (findings.data ?? []).filter((f) => f.silenced !== null)
  const troubles = open.filter((f) => f.severity === 'stops' || f.severity === 'risky').length

  // J and K walk from one to the next, the worst first.
  // A key may come before the sheet is drawn: what it asked for gets the focus once it stands there.
  const [wanted, setWanted] = useState<{ key: string; times: number } | null>(null)
  const chosen = wanted?.key ?? params.get('finding')
  // Where the walk is now, not where the page was last drawn: two quick keys are two steps.
  const at = useRef(chosen)
  const choose = (finding: FoundThing) => {
    at.current = finding.key
    setWanted((w) => ({ key: finding.key, times: (w?.times ?? 0) + 1 }))
    const next = new URLSearchParams(params)
    next.set('finding', finding.key)
    setParams(next, { replace: true })
  }
  useEffect(() => {
    const walk = (e: KeyboardEvent) => {
      const from = e.target as HTMLElement
      if (
        !settings().keys ||
        e.ctrlKey ||
        e.metaKey ||
        e.altKey ||
        from.closest('input, textarea, select, [role="dialog"]') ||
        open.length === 0
      )
        return
      const by = e.key.toLowerCase() === 'j' ? 1 : e.key.toLowerCase() === 'k' ? -1 : 0
      if (by === 0) return
      e.preventDefault()
      const now = open.findIndex((f) => f.key === at.current)
      choose(open[now < 0 ? (by > 0 ? 0 : open.length - 1) : (now + by + open.length) % open.length]!)
    }
    window.addEventListener('keydown', walk)
    return () => window.removeEventListener('keydown', walk)
    // choose is made anew with every drawing.
    // eslint-disable-next-line
  }, [open])

  const silence = useEdit({
    call: ({ finding, reason }: { finding: FoundThing; reason: string }) =>
      unwrap(
        client.POST('/api/rigs/{id}/findings/{key}/silence', {
          params: { path: { id: rig.id, key: finding.key } },
          body: { reason, copy: rig.copy, by: tabId },
        }),
      ),
    said: (done) => `Set aside: ${done.headline}.`,
  })
  const speak = useEdit({
    call: (finding: FoundThing) =>
      unwrap(
        client.DELETE('/api/rigs/{id}/findings/{key}/silence', {
          params: { path: { id: rig.id, key: finding.key }, query: { copy: rig.copy, by: tabId } },
        }),
      ),
    said: (done) => `Shown again: ${done.headline}.`,
    aloud: true,
  })
  const cure = useEdit({
    call: (finding: FoundThing) =>
      unwrap(
        client.POST('/api/rigs/{id}/program/cure', {
          params: { path: { id: rig.id } },
          body: {
            baseRevision: rig.revision,
            code: finding.code,
            line: finding.line,
            copy: rig.copy,
            by: tabId,
            program: finding.program === main.data?.index ? null : finding.program,
          },
        }),
      ),
    aloud: true,
  })
  const [reasoning, setReasoning] = useState<string | null>(null)
  const shown = (f: FoundThing) => (
    <Found
      key={f.key}
      finding={f}
      follows={(findings.data ?? []).filter((o) => o.because === f.key)}
      chosen={f.key === chosen}
      wanted={wanted?.key === f.key ? wanted.times : 0}
      busy={cure.busy || silence.busy}
      reasoning={reasoning === f.key}
      problem={reasoning === f.key ? silence.problem : []}
      onReasoning={(on) => setReasoning(on ? f.key : null)}
      onCure={() => cure.keep(f)}
      onSilence={(reason) => silence.keep({ finding: f, reason }, { onSuccess: () => setReasoning(null) })}
    />
  )
  // What speaks of the whole stands above the sheet only where it is to be settled.
  const whole = open.filter((f) => f.line === 0)
  const serious = whole.filter((f) => f.severity === 'stops' || f.severity === 'risky')
  const minor = whole.filter((f) => !serious.includes(f))
  const faulty = running.filter((p) => p.faults > 0)

  // What was not answered yet is not “nothing”.
  if (findings.isError || looked.isError || main.isError)
    return (
      <main className="page">
        <p className="fault" role="alert">
          What was found could not be fetched. Is the bench still running? Load the page again to try once more.
        </p>
      </main>
    )
  if (!findings.data || !looked.data || !main.data || others.some((o) => !o.data)) return <Moment />
  return (
    <main className="prove">
      <div className="prove-columns">
        <div className="page prove-page check">
          <p className="only-print check-of">
            {rig.name}, copy {rig.copy}, revision {rig.revision}, {new Date().toISOString().slice(0, 10)}
          </p>
          <h2 className="page-title">
            {troubles > 0
              ? `${troubles} to settle`
              : running.length > 0 && faulty.length === running.length
                ? 'Nothing can be looked at yet'
                : 'Nothing to settle in what was looked at'}
          </h2>
          {faulty.map((p) => (
            <p key={p.index} className="lead">
              {p.name} has {p.faults} {p.faults === 1 ? 'fault' : 'faults'}: it was not looked at.{' '}
              <Link to={`../program${p.index === main.data?.index ? '' : `?program=${p.index}`}`}>Go there</Link>
            </p>
          ))}
          <p className="row no-print">
            <Button component={Link} to="others" variant="text">
              Hold against other rigs and copies
            </Button>
            <Button variant="text" onClick={() => window.print()}>
              Print
            </Button>
          </p>
          <p className="fine muted no-print">
            {open.length === 0 ? (
              'The margin says what was looked for, and how far.'
            ) : keys ? (
              <>
                <kbd>J</kbd> and <kbd>K</kbd> go from one to the next, the worst first.
              </>
            ) : (
              'Each stands under its line.'
            )}
          </p>
          {serious.length > 0 && <div className="check-whole">{serious.map(shown)}</div>}
          {programs
            .filter((p) => p.diagnostics.length === 0)
            .map((p) => (
              <section key={p.index} aria-label={`Program ${p.programs.find((x) => x.index === p.index)?.name ?? ''}`}>
                {programs.length > 1 && <h3 className="small-title">{p.programs.find((x) => x.index === p.index)?.name}</h3>}
                <Corrected program={p} findings={open.filter((f) => f.program === p.index)} shown={shown} />
              </section>
            ))}
          {minor.length > 0 && <div className="check-whole">{minor.map(shown)}</div>}
          {aside.length > 0 && (
            <section className="proof-section" aria-label="Set aside">
              <h3 className="small-title">Set aside on copy {rig.copy}</h3>
              {aside.map((f) => (
                <p key={f.key}>
                  <b>{f.headline}.</b> {f.silenced}{' '}
                  <Button variant="text" onClick={() => speak.keep(f)} disabled={speak.busy} aria-label={`Show again: ${f.headline}`}>
                    Show it again
                  </Button>
                </p>
              ))}
            </section>
          )}
        </div>
        <LookedAt looked={looked.data ?? []} />
      </div>
      <Tide />
    </main>
  )
}

/** The sheet of a program: lines with something under them as they are, all others folded to a count. */
function Corrected({ program, findings, shown }: { program: Program; findings: FoundThing[]; shown: (f: FoundThing) => React.ReactNode }) {
  const under = (line: Line) => findings.filter((f) => f.line === line.line).sort(worse)
  const parts: ({ quiet: number } | { block: Block; lines: Line[] })[] = []
  for (const block of blocksOf(program)) {
    const lines = linesOf(block).filter((l) => under(l).length > 0)
    const last = parts.at(-1)
    const quiet = linesOf(block).length - lines.length
    if (lines.length > 0) parts.push({ block, lines })
    else if (last && 'quiet' in last) last.quiet += quiet
    else parts.push({ quiet })
  }
  return (
    <div className="corrected">
      {parts.map((p, i) =>
        'quiet' in p ? (
          p.quiet > 0 && (
            <p key={i} className="quiet-lines fine muted">
              {p.quiet} {p.quiet === 1 ? 'line' : 'lines'} with nothing found
            </p>
          )
        ) : (
          <div key={i} className="block">
            <div className="state-name">{p.block.owner || 'Head'}</div>
            <div>
              {linesOf(p.block).map((line, j, all) =>
                p.lines.includes(line) ? (
                  <div key={line.line}>
                    <div className="sentence check-line">
                      {line === p.block.head ? <span className="words">{line.text}</span> : <Sentence line={line} kinds={program.kinds} />}
                    </div>
                    {under(line).map(shown)}
                  </div>
                ) : (
                  // One count for each row of quiet lines.
                  (j === 0 || p.lines.includes(all[j - 1]!)) && (
                    <p key={line.line} className="quiet-lines fine muted">
                      {counted(
                        all.slice(j).findIndex((l) => p.lines.includes(l)),
                        all.length - j,
                      )}
                    </p>
                  )
                ),
              )}
            </div>
          </div>
        ),
      )}
    </div>
  )
}

const counted = (until: number, rest: number) => {
  const n = until < 0 ? rest : until
  return `${n} ${n === 1 ? 'line' : 'lines'} with nothing found`
}
