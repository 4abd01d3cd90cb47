import { useState } from 'react'
import { useMutation, useQueryClient } from '@tanstack/react-query'
import { useNavigate } from 'react-router'
import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import { client, Problem, sentencesOf, unwrap } from '../../app/api'
import { Faults } from '../../shared/Faults'

/** The way into the room: a code, and for a new team its name. */
export default function JoinPage() {
  const queries = useQueryClient()
  const navigate = useNavigate()
  const [code, setCode] = useState(() => new URLSearchParams(window.location.search).get('code') ?? '')
  const [team, setTeam] = useState('')
  const [table, setTable] = useState('')
  const [named, setNamed] = useState(false)
  const join = useMutation({
    mutationFn: () =>
      unwrap(
        client.POST('/api/me/join', {
          body: { code, team: named ? team : null, table: named && table.trim() !== '' ? Number(table) : null },
        }),
      ),
    onSuccess: async (joined) => {
      if (joined.who === null || joined.who === undefined) {
        setNamed(true)
        return
      }
      await navigate('/', { replace: true })
      // Whatever was asked for before belongs to nobody now.
      queries.clear()
      window.location.reload()
    },
  })
  const fields = join.error instanceof Problem ? join.error.fields : {}
  return (
    <div className="app">
      <header className="spine">
        <span className="wordmark">chiton</span>
      </header>
      <div className="desk">
        <main className="page join-page">
          <h1 className="page-title">Join the room</h1>
          <form
            onSubmit={(e) => {
              e.preventDefault()
              join.mutate()
            }}
          >
            <p className="lead">
              {named
                ? 'The code is right. What is your team called? No names of people, please.'
                : 'Type the code from the wall. A device that joins a team that is there already takes the code of that team.'}
            </p>
            {!named && (
              <TextField
                autoFocus
                label="Code"
                value={code}
                onChange={(e) => setCode(e.target.value)}
                error={fields.code !== undefined}
                slotProps={{
                  htmlInput: {
                    maxLength: 20,
                    autoComplete: 'off',
                    autoCapitalize: 'characters',
                    spellCheck: false,
                    className: 'join-code',
                  },
                }}
              />
            )}
            {named && (
              <div className="row">
                <TextField
                  autoFocus
                  label="Team"
                  value={team}
                  onChange={(e) => setTeam(e.target.value)}
                  error={fields.team !== undefined}
                  slotProps={{ htmlInput: { maxLength: 40, autoComplete: 'off' } }}
                />
                <TextField
                  label="Table, if you know it"
                  value={table}
                  onChange={(e) => setTable(e.target.value)}
                  error={fields.table !== undefined}
                  slotProps={{ htmlInput: { maxLength: 2, inputMode: 'numeric', autoComplete: 'off' } }}
                  style={{ width: 170 }}
                />
              </div>
            )}
            <p className="row" style={{ marginTop: 14 }}>
              <Button type="submit" variant="contained" disabled={join.isPending}>
                Join
              </Button>
              {named && (
                <Button
                  variant="text"
                  onClick={() => {
                    join.reset()
                    setNamed(false)
                  }}
                >
                  Another code
                </Button>
              )}
            </p>
            {join.isError && <Faults sentences={sentencesOf(join.error)} />}
          </form>
          <p className="fine muted">
            This network is not sealed: others on it could read along. Nothing about people is asked for, and nothing leaves the machine at
            the desk.
          </p>
        </main>
      </div>
    </div>
  )
}
