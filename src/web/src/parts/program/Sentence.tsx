import { Fragment } from 'react'
import type { SheetLine } from '../../app/api'

const keyOf: Record<string, string> = {
  const: 'const',
  every: 'every',
  always: 'always',
  history: 'history',
  routine: 'routine',
  region: 'region',
  var: 'var',
  goal: 'goal',
  never: 'never',
  entry: 'on entry',
  while: 'while here',
  exit: 'on exit',
  when: 'when',
  after: 'after',
  broken: '',
  state: 'state',
  program: 'program',
}
const timed = new Set(['when', 'after', 'every', 'always'])
const lead = /^(on entry: |while here: |on exit: |when |after |every |always|const |var |goal: |never: )/

/** One sentence of the sheet, with the mark language. */
export function Sentence({ line }: { line: SheetLine }) {
  const pieces = line.pieces.map((p, i) => (i === 0 && p.kind === 'word' ? { ...p, text: p.text.replace(lead, '') } : p))
  return (
    <>
      <span className={`key${timed.has(line.part) ? ' time' : ''}`}>{keyOf[line.part]} </span>
      <span className="words">
        {pieces.map((piece, i) => {
          const next = pieces[i + 1]
          switch (piece.kind) {
            case 'device':
              return (
                <b key={i} className="device">
                  {piece.text}
                </b>
              )
            case 'zone':
              return (
                <span key={i} className="zone">
                  {piece.text}
                </span>
              )
            case 'number':
              return (
                <Fragment key={i}>
                  <span className={`num ${piece.provenance}`} title={piece.source ?? ''}>
                    {piece.text}
                  </span>
                  <span className="hidden-text"> ({piece.source}) </span>
                </Fragment>
              )
            case 'target':
              return (
                <span key={i} className="target">
                  {piece.text}
                </span>
              )
            case 'place':
              return <b key={i}>{piece.text}</b>
            case 'name':
              return <span key={i}>{piece.text}</span>
            default: {
              // The colon or semicolon before the target gives way to space; the words stay for the editor.
              const goes = (piece.text.endsWith('go ') && next?.kind === 'target') || piece.text === 'stay'
              if ((piece.text === ': ' || piece.text === '; ') && (next?.text === 'go ' || next?.text === 'stay')) return null
              if (goes)
                return (
                  <span key={i} className="go">
                    {piece.text}
                  </span>
                )
              return <span key={i}>{piece.text}</span>
            }
          }
        })}
      </span>
    </>
  )
}
