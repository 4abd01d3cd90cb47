import { useRef } from 'react'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { Link } from 'react-router'
import Button from '@mui/material/Button'
import { sentencesOf } from '../../app/api'
import { Faults } from '../../shared/Faults'

/** Takes in what was exported: a file is chosen, read, and said where it stands now. */
export function TakeIn({
  kind,
  schema,
  send,
  keys,
  to,
}: {
  /** What it is: a course, a challenge. */
  kind: string
  /** Address of what such a file looks like. */
  schema: string
  send: (file: never) => Promise<{ id: string; say: string }>
  /** What is asked for anew afterwards. */
  keys: string[]
  to: (id: string) => string
}) {
  const queries = useQueryClient()
  const file = useRef<HTMLInputElement>(null)
  const bring = useMutation({
    mutationFn: async (chosen: File) => {
      let body
      try {
        body = JSON.parse(await chosen.text())
      } catch {
        throw new SyntaxError(`${chosen.name} is no ${kind}: it cannot be read as JSON.`)
      }
      return send(body as never)
    },
    onSuccess: () => queries.invalidateQueries({ queryKey: keys }),
  })
  return (
    <>
      <p className="row" style={{ marginTop: 14 }}>
        <Button onClick={() => file.current?.click()}>Take in a file</Button>
        <a className="fine" href={schema} target="_blank" rel="noreferrer">
          What such a file looks like
        </a>
        <input
          ref={file}
          type="file"
          accept=".json,application/json"
          hidden
          aria-label={`File of a ${kind}`}
          onChange={(e) => {
            const chosen = e.target.files?.[0]
            if (chosen) bring.mutate(chosen)
            e.target.value = ''
          }}
        />
      </p>
      {bring.data && (
        <p role="status">
          {bring.data.say} <Link to={to(bring.data.id)}>Open it</Link>
        </p>
      )}
      {bring.isError && <Faults sentences={bring.error instanceof SyntaxError ? [bring.error.message] : sentencesOf(bring.error)} />}
    </>
  )
}
