import { Fragment } from 'react'
import { piecesOf, type Kind, type Line } from './sheet'

const timed = new Set(['when', 'after', 'every', 'always'])

/** One sentence of the sheet, with the mark language. */
export function Sentence({ line, kinds }: { line: Line; kinds: Kind[] }) {
  const pieces = piecesOf(line, kinds)
  return (
    <>
      <span className={`key${timed.has(line.part) ? ' time' : ''}`}>{line.key} </span>
      <span className="words">
        {pieces.map((piece, i) => {
          switch (piece.kind?.kind) {
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
                  <span className={`num ${piece.kind.provenance}`} title={piece.kind.source ?? ''}>
                    {piece.text}
                  </span>
                  <span className="hidden-text"> ({piece.kind.source}) </span>
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
            case undefined:
              return <Words key={i} text={piece.text} leads={pieces[i + 1]?.kind?.kind === 'target'} />
            default:
              return <span key={i}>{piece.text}</span>
          }
        })}
      </span>
    </>
  )
}

// The colon or semicolon before where it goes gives way to space; the words stay for the editor.
function Words({ text, leads }: { text: string; leads: boolean }) {
  const word = leads ? 'go ' : 'stay'
  if (!text.endsWith(word)) return <span>{text}</span>
  const before = text.slice(0, -word.length)
  const said = before.endsWith(': ') || before.endsWith('; ') ? before.slice(0, -2) : before
  return (
    <>
      {said && <span>{said}</span>}
      {/* Read aloud and copied, words stand apart as well. */} <span className="go">{word}</span>
    </>
  )
}
