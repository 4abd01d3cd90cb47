import { Link } from 'react-router'
import Button from '@mui/material/Button'
import type { Proof } from '../../app/api'
import { useRig } from '../../app/rig'
import { Note } from '../../shared/NoteCard'

const parts = { move: 'Try it in Move', sense: 'Read it in Sense', rig: 'Measure it in Rig' } as const

/** What to measure next, what is luck, and what the last change brought. */
export function Measure({ proof, onCompare }: { proof: Proof; onCompare: () => void }) {
  const { rig } = useRig()
  const to = (d: Proof['doubts'][number]) => {
    const at = `/rigs/${rig.id}/${d.part}${d.part !== 'rig' ? '' : d.on === 'pack' ? '/preflight' : '/describe'}?copy=${rig.copy}`
    if (d.part === 'move') {
      const mechanism = d.on!.slice(0, d.on!.indexOf(':'))
      return `${at}&mechanism=${encodeURIComponent(mechanism)}&view=trials&motion=${encodeURIComponent(d.on!)}`
    }
    return d.part === 'sense' ? `${at}&sensor=${encodeURIComponent(d.on!)}` : at
  }
  // Of what stands now: the proof's own word, or that of the runs that follow every edit.
  const against = proof.current ? (proof.against ?? rig.rate.against) : rig.rate.against
  return (
    <aside className="margin no-print" aria-label="What to measure next">
      <h3 className="small-title">What to measure next</h3>
      {proof.doubts.map((d, i) => (
        <Note
          key={d.name}
          lead={i === 0}
          tone={i === 0 ? 'risky' : 'muted'}
          word={
            i > 0
              ? 'Helps less'
              : d.minutes === null
                ? 'Not known well'
                : `Worth ${d.minutes === 1 ? 'a minute' : `${minutes(d.minutes)} minutes`}`
          }
          title={upper(d.name)}
          action={
            d.part && (
              <Button component={Link} to={to(d)} variant={i === 0 ? 'contained' : 'outlined'}>
                {parts[d.part as keyof typeof parts]}
              </Button>
            )
          }
        >
          It makes {Math.max(1, Math.round(10 * d.share))} parts in 10 of the doubt. {d.say}
        </Note>
      ))}
      {proof.doubts.length === 0 && (
        <p className="fine muted" data-testid="nothing-to-measure">
          {proof.copies === 0 && proof.target === null
            ? 'Nothing of this copy is in doubt: measuring would bring nothing.'
            : proof.named
              ? 'No single number stands out: what is left is luck, or many small things.'
              : proof.target !== null
                ? 'A proof without a target says what is worth measuring.'
                : 'Too few copies were run to say. A whole proof will.'}
        </p>
      )}
      {proof.lucks.length > 0 && (
        <Note tone="muted" word="Luck, not doubt" title={upper(proof.lucks[0] ?? '')}>
          The greatest part of what no measuring removes.
          {proof.lucks.length > 1 && ` Next: ${proof.lucks.slice(1).join(', ')}.`}
        </Note>
      )}
      {against && (
        <section className="note" data-testid="against">
          <h3>Against {against.sameRevision ? 'what was known before' : `revision ${against.revision}`}</h3>
          <AgainstWords say={against.rates.say ?? ''} />
          <Button onClick={onCompare}>Compare</Button>
        </section>
      )}
      {!against && (
        <p className="no-print">
          <Button onClick={onCompare}>Compare revisions or copies</Button>
        </p>
      )}
    </aside>
  )
}

/** The verdict stands out by its word. */
export function AgainstWords({ say }: { say: string }) {
  const at = say.indexOf(':')
  const verdict = say.slice(0, at)
  return (
    <p>
      <b className={verdict === 'Better' ? 'holds' : verdict === 'Worse' ? 'risky' : undefined}>{verdict}</b>
      {say.slice(at)}
    </p>
  )
}

const upper = (s: string) => s.charAt(0).toUpperCase() + s.slice(1)
const minutes = (n: number) => ['', 'one', 'two', 'three', 'four', 'five'][Math.round(n)] ?? String(Math.round(n))
