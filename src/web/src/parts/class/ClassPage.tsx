import { useState } from 'react'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Link, useNavigate } from 'react-router'
import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import { client, sentencesOf, unwrap } from '../../app/api'
import { Faults } from '../../shared/Faults'
import { ClassFrame } from './ClassFrame'

/** All classes. */
export default function ClassPage() {
  const queries = useQueryClient()
  const navigate = useNavigate()
  const [name, setName] = useState('')
  const classes = useQuery({ queryKey: ['room', 'classes'], queryFn: () => unwrap(client.GET('/api/classes')), staleTime: 0 })
  const make = useMutation({
    mutationFn: () => unwrap(client.POST('/api/classes', { body: { name, table: null } })),
    onSuccess: async (made) => {
      await queries.invalidateQueries({ queryKey: ['room'] })
      await navigate(`/class/${made.id}`)
    },
  })
  return (
    <ClassFrame>
      <main className="page">
        <h1 className="page-title">Classes</h1>
        <p className="lead">
          A class has teams, and each team rigs of its own. Open its room, and their devices join it here over the network of this room;
          without a network teams take turns at this desk.
        </p>
        {classes.data?.length === 0 && <p className="lead">There is no class yet. Give the first one a name.</p>}
        {(classes.data ?? []).map((c) => (
          <section key={c.id} className="rig-row" aria-label={c.name}>
            <Link to={`/class/${c.id}`} style={{ fontSize: 17 }}>
              <b>{c.name}</b>
            </Link>
            <span>
              {c.teams === 0 ? 'no team yet' : c.teams === 1 ? '1 team' : `${c.teams} teams`}
              {c.open && <b>, the room is open</b>}
            </span>
          </section>
        ))}
        <form
          className="row"
          style={{ marginTop: 16 }}
          onSubmit={(e) => {
            e.preventDefault()
            make.mutate()
          }}
        >
          <TextField
            size="small"
            label="Name of a new class"
            value={name}
            onChange={(e) => setName(e.target.value)}
            slotProps={{ htmlInput: { maxLength: 60 } }}
          />
          <Button type="submit" variant="contained" disabled={make.isPending}>
            Make it
          </Button>
        </form>
        {make.isError && <Faults sentences={sentencesOf(make.error)} />}
        {classes.isError && <Faults sentences={sentencesOf(classes.error)} />}
      </main>
    </ClassFrame>
  )
}
