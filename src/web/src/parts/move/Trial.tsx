import { useEdit } from '../../app/edit'
import { useEffect, useRef, useState } from 'react'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import { useSearchParams } from 'react-router'
import { client, sentencesOf, tabId, unwrap } from '../../app/api'
import { partKey, useRefresh, useRig } from '../../app/rig'
import { Faults } from '../../shared/Faults'
import { show } from '../../shared/format'
import { Amount } from './Amount'
import { Rule } from './Rule'
import { useLine } from '../../shared/OnLine'
import { newKey } from '../../app/keys'
import { typed, type Motion, type TurnStyle } from './move'

/** One motion: its rule, what the trials say, and the next trial. */
export function Trial({
  motion,
  open,
  onOpen,
  target,
  onTarget,
}: {
  motion: Motion
  open: boolean
  onOpen: () => void
  target: string | null
  onTarget: (t: string | null) => void
}) {
  const { plan, trials, fit } = motion
  return (
    <section
      className="note lead-note"
      aria-label={plan.title}
      data-testid={`motion-${plan.kind}`}
      style={open ? { background: 'var(--paper)', boxShadow: 'inset 5px 0 0 var(--teal)', padding: '10px 14px 12px 18px' } : undefined}
    >
      <div className="row" style={{ alignItems: 'baseline' }}>
        <h3 style={{ fontSize: 16 }}>{plan.title}</h3>
        <span className="fine muted">finds the {plan.number}</span>
        <span className="push" />
        {motion.inUse ? (
          <span className="fine">
            in use <Amount q={motion.inUse} />
          </span>
        ) : (
          <span className="fine muted">no number yet</span>
        )}
        {!open && (
          <Button onClick={onOpen} aria-label={`Open: ${plan.title}`}>
            {trials.length === 0 ? 'Try it' : 'Go on'}
          </Button>
        )}
      </div>
      {trials.length > 0 && <Rule motion={motion} />}
      {(trials.length > 0 || open) && (
        <p style={{ margin: '4px 0 6px' }}>{motion.ready ?? (trials.length === 0 ? `${plan.how}` : fit.say)}</p>
      )}
      {open && plan.timed && <Setting motion={motion} />}
      {open && motion.first && <p className="fine risky">{motion.first}</p>}
      {open && !motion.ready && <TrialForm motion={motion} target={target} onTarget={onTarget} />}
    </section>
  )
}

/** A timed move holds for its power and its way of turning: another one is a motion of its own. */
function Setting({ motion }: { motion: Motion }) {
  const { rig } = useRig()
  const [, setParams] = useSearchParams()
  const { plan } = motion
  const [power, setPower] = useState(show(plan.power ?? 50, 4))
  const other = useMutation({
    mutationFn: (style: TurnStyle | null) =>
      unwrap(
        client.GET('/api/rigs/{id}/move', {
          params: {
            path: { id: rig.id },
            query: { copy: rig.copy, key: plan.key, power: typed(power) ?? NaN, ...(style ? { style } : {}) },
          },
        }),
      ),
    onSuccess: (view) =>
      setParams(
        (p) => {
          p.set('motion', view.key ?? plan.key)
          p.delete('target')
          return p
        },
        { replace: true },
      ),
  })
  const changed = typed(power) !== plan.power
  return (
    <div className="row" style={{ gap: '8px 18px', margin: '2px 0 8px' }}>
      <label>
        At{' '}
        <input
          className="mono figure"
          inputMode="decimal"
          style={{ width: 64 }}
          aria-label="Power, in %"
          aria-invalid={typed(power) === null}
          value={power}
          onChange={(e) => setPower(e.target.value)}
          onKeyDown={(e) => {
            if (e.key !== 'Enter') return
            e.preventDefault()
            other.mutate(plan.style ?? null)
          }}
        />{' '}
        %
      </label>
      {plan.kind === 'timedTurn' && (
        <label>
          turning{' '}
          <select
            className="figure"
            aria-label="How it turns"
            value={plan.style ?? 'spin'}
            onChange={(e) => other.mutate(e.target.value as TurnStyle)}
          >
            <option value="spin">on the spot</option>
            <option value="leftWheel">on the left wheel alone</option>
            <option value="rightWheel">on the right wheel alone</option>
          </select>
        </label>
      )}
      {changed && (
        <Button onClick={() => other.mutate(plan.style ?? null)} disabled={other.isPending}>
          Try it at this power
        </Button>
      )}
      <span className="fine muted">Trials at another power are kept apart.</span>
      {other.isError && <Faults sentences={sentencesOf(other.error)} />}
    </div>
  )
}

function TrialForm({ motion, target, onTarget }: { motion: Motion; target: string | null; onTarget: (t: string | null) => void }) {
  const { rig, say } = useRig()
  const refresh = useRefresh()
  const queries = useQueryClient()
  const { plan, trials, fit } = motion
  const [told, setTold] = useState<string | null>(null)
  const [measured, setMeasured] = useState('')
  // Of the tremble it is readings that are measured: at rest, and rolling.
  const byReadings = (plan.sensors ?? []).length > 0
  const [readings, setReadings] = useState({ sensor: '', atRest: '', rolling: '' })
  const [question, setQuestion] = useState<{ real: boolean; sentences: string[] } | null>(null)
  const asked = target ?? show(motion.target, 5)
  const happened = useRef<HTMLInputElement>(null)
  const done = useRef<HTMLParagraphElement>(null)
  const bracket = plan.family === 'bracket'
  const real = rig.kind === 'real'
  const eyes = plan.sensors ?? []
  const bad = (t: string) => t.trim() !== '' && typed(t) === null
  const make = useMutation({
    mutationFn: ({ real, sure }: { real: boolean; sure: boolean }) =>
      unwrap(
        client.POST('/api/rigs/{id}/trials', {
          params: { path: { id: rig.id } },
          body: {
            copy: rig.copy,
            key: plan.key,
            asked: typed(asked),
            commanded: bracket ? null : told === null ? null : typed(told),
            measured: real && !byReadings ? typed(measured) : null,
            ...(real && byReadings
              ? { atRest: readings.atRest, rolling: readings.rolling, ...(readings.sensor ? { sensor: readings.sensor } : {}) }
              : {}),
            sure,
            by: tabId,
          },
        }),
      ),
    onSuccess: (view) => {
      const mine = view.mechanisms.flatMap((m) => m.motions).find((m) => m.plan.key === plan.key)
      const last = mine?.trials.at(-1)
      if (last)
        say(
          bracket
            ? `At ${show(last.commanded)} % it ${last.measured >= 0.5 ? 'moved' : 'stayed'}.`
            : `Asked ${show(last.asked, 5)} ${plan.askUnit}, happened ${show(last.measured, 5)} ${plan.happenUnit}.`,
        )
      setQuestion(null)
      setTold(null)
      setMeasured('')
      setReadings((r) => ({ ...r, atRest: '', rolling: '' }))
      if (bracket || plan.kind === 'square') onTarget(null)
      // The answer is the page of now: it stands at once, and whoever types on is not held up.
      queries.setQueriesData({ queryKey: partKey(rig.id, 'move', rig.copy) }, view)
      void refresh()
    },
    onError: (e, { real }) => setQuestion({ real, sentences: sentencesOf(e) }),
  })
  const joined = useLine()?.standing === 'joined'
  const [job, setJob] = useState('')
  const tell = useMutation({
    mutationFn: (name: string) =>
      unwrap(
        client.POST('/api/rigs/{id}/trials/tell', {
          params: { path: { id: rig.id } },
          body: {
            copy: rig.copy,
            key: plan.key,
            asked: typed(asked),
            commanded: bracket ? null : told === null ? motion.command : typed(told),
            job: name,
          },
        }),
      ),
    onSuccess: (was) => {
      setQuestion(null)
      // What the board counted stands there, to be looked at and kept.
      if (was.figure != null) setMeasured(show(was.figure, 6))
      happened.current?.focus()
    },
    onError: (e) => setQuestion({ real: true, sentences: sentencesOf(e) }),
  })
  const accept = useEdit({
    call: () =>
      unwrap(
        client.POST('/api/rigs/{id}/trials/accept', {
          params: { path: { id: rig.id } },
          body: { copy: rig.copy, key: plan.key, target: typed(asked), by: tabId },
        }),
      ),
    said: () => `The ${plan.number} of copy ${rig.copy} is measured now.`,
    aloud: true,
  })
  const leave = useEdit({
    call: (at: number | null) =>
      unwrap(
        client.POST('/api/rigs/{id}/trials/leave-out', {
          params: { path: { id: rig.id } },
          body: { copy: rig.copy, key: plan.key, baseVersion: motion.version, leaveOut: at, by: tabId },
        }),
      ),
    said: (_, at) =>
      at === null
        ? 'Started anew. The earlier trials stay in the history; undo brings them back.'
        : `Trial ${at + 1} is left out. Undo brings it back.`,
    aloud: true,
  })
  useEffect(() => {
    if (question) done.current?.scrollIntoView({ block: 'nearest' })
  }, [question])
  const doubtful = question?.sentences.some((s) => s.endsWith('Keep it if you are sure.')) ?? false
  const num = { className: 'mono figure', inputMode: 'decimal' as const, style: { width: 86 } }
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault()
        if (!make.isPending) make.mutate({ real: byReadings || measured.trim() !== '', sure: false })
      }}
    >
      <div className="row" style={{ gap: '8px 18px' }}>
        <label>
          {bracket ? 'Try' : 'Ask for'}{' '}
          <input
            {...num}
            aria-label={`${bracket ? 'Try' : 'Ask for'}, in ${plan.askUnit}`}
            aria-invalid={bad(asked)}
            value={asked}
            onChange={(e) => onTarget(e.target.value)}
          />{' '}
          {plan.askUnit}
        </label>
        {!bracket && plan.kind !== 'square' && (
          <label>
            {real ? 'the controller was told' : 'which tells the controller'}{' '}
            <input
              {...num}
              aria-label={`Tell the controller, in ${plan.commandUnit}`}
              aria-invalid={told !== null && bad(told)}
              value={told ?? show(motion.command, 5)}
              onChange={(e) => setTold(e.target.value)}
            />{' '}
            {plan.commandUnit}
          </label>
        )}
        {told === null && !bracket && (
          <span className="fine muted" data-testid="command">
            {motion.commandSay}
          </span>
        )}
        {real && !bracket && Math.abs((motion.suggested ?? 0) - (told === null ? motion.command : (typed(told) ?? NaN))) > 1e-9 && (
          <span className="fine">
            The trials suggest {show(motion.suggested ?? 0, 5)} {plan.commandUnit}.{' '}
            <Button variant="text" onClick={() => setTold(show(motion.suggested ?? 0, 5))}>
              {joined ? 'Take that' : 'I told it that'}
            </Button>
          </span>
        )}
      </div>
      <div className="row" style={{ marginTop: 8, gap: '8px 18px' }}>
        {!real && (
          <Button
            variant={measured.trim() === '' && readings.rolling === '' ? 'contained' : 'outlined'}
            onClick={() => make.mutate({ real: false, sure: false })}
            disabled={make.isPending}
          >
            Run it on the stand-in
          </Button>
        )}
        {joined && !byReadings && (
          <>
            <Button
              variant={measured.trim() === '' ? 'contained' : 'outlined'}
              disabled={tell.isPending || make.isPending}
              onClick={() => {
                const name = newKey()
                setJob(name)
                tell.mutate(name)
              }}
            >
              Tell the robot
            </Button>
            {tell.isPending && (
              <Button onClick={() => void client.DELETE('/api/jobs/{job}', { params: { path: { job } } })}>Stop it</Button>
            )}
          </>
        )}
        {!byReadings && (
          <label>
            {real ? 'The robot on the table did' : 'or type what it did'}{' '}
            <input
              {...num}
              ref={happened}
              aria-label={`What it did, in ${plan.happenUnit}`}
              aria-invalid={bad(measured)}
              value={measured}
              onChange={(e) => setMeasured(e.target.value)}
            />{' '}
            {plan.happenUnit}
          </label>
        )}
        {byReadings && (
          <>
            {eyes.length > 1 && (
              <label>
                Readings of{' '}
                <select
                  className="figure"
                  value={readings.sensor || eyes[0]}
                  onChange={(e) => setReadings({ ...readings, sensor: e.target.value })}
                >
                  {eyes.map((e) => (
                    <option key={e}>{e}</option>
                  ))}
                </select>
              </label>
            )}
            {(
              [
                ['atRest', 'Readings at rest'],
                ['rolling', 'Readings while rolling'],
              ] as const
            ).map(([field, label]) => (
              <label key={field} style={{ display: 'grid', gap: 2 }}>
                {label}
                <textarea
                  className="mono figure"
                  rows={3}
                  style={{ width: 190 }}
                  placeholder={'41.2\n40.8\n41.5'}
                  value={readings[field]}
                  onChange={(e) => setReadings({ ...readings, [field]: e.target.value })}
                />
              </label>
            ))}
          </>
        )}
        <Button
          type="submit"
          disabled={
            make.isPending || (byReadings ? readings.atRest.trim() === '' || readings.rolling.trim() === '' : measured.trim() === '')
          }
        >
          Keep this trial
        </Button>
        <span className="push" />
        {fit.number && (
          <Button
            variant={fit.enough ? 'contained' : 'outlined'}
            onClick={() => accept.mutate()}
            disabled={accept.isPending}
          >{`Use ${show(fit.number.value, 4)} ${fit.number.unit}${fit.enough ? '' : ' all the same'}`}</Button>
        )}
      </div>
      {joined && (
        <p className="fine" role="status" data-testid="told" style={{ margin: '6px 0 0' }}>
          {tell.isPending ? 'It is told, and waited for…' : (tell.data?.say ?? '')}
        </p>
      )}
      {question && (
        <div ref={done}>
          <Faults sentences={question.sentences} />
          {doubtful && <Button onClick={() => make.mutate({ real: question.real, sure: true })}>Keep it, I am sure</Button>}
        </div>
      )}
      {trials.length > 0 && (
        <details style={{ marginTop: 8 }}>
          <summary>
            {trials.length === 1 ? 'The trial' : `The ${trials.length} trials`} {real ? 'on the table' : 'on the stand-in'}
          </summary>
          <p className="fine muted">{plan.how}</p>
          <table className="ruled" style={{ width: 'auto', fontSize: 14 }}>
            <thead>
              <tr>
                <th>Trial</th>
                <th>Asked</th>
                <th>Told</th>
                <th>Happened</th>
                <th>
                  <span className="hidden-text">Leave out</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {trials.map((t, i) => (
                <tr key={i} className={t.odd ? 'risky' : ''}>
                  <td>
                    {i + 1}
                    {t.odd ? ', far from the rest' : ''}
                  </td>
                  <td className="mono">
                    {show(t.asked, 5)} {plan.askUnit}
                  </td>
                  <td className="mono">
                    {show(t.commanded, 5)} {plan.commandUnit}
                    {t.told !== '' && <div className="fine muted">over the line: {t.told}</div>}
                  </td>
                  <td className="mono">
                    {bracket ? (t.measured >= 0.5 ? 'moved' : 'stayed') : `${show(t.measured, 5)} ${plan.happenUnit}`}
                  </td>
                  <td>
                    <Button
                      variant="text"
                      onClick={() => leave.mutate(i)}
                      disabled={leave.isPending}
                      aria-label={`Leave out trial ${i + 1}`}
                    >
                      Leave out
                    </Button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <Button variant="text" onClick={() => leave.mutate(null)} disabled={leave.isPending}>
            Start anew
          </Button>
        </details>
      )}
    </form>
  )
}
