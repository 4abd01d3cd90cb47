import { useState } from 'react'
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { Link } from 'react-router'
import Button from '@mui/material/Button'
import Checkbox from '@mui/material/Checkbox'
import FormControlLabel from '@mui/material/FormControlLabel'
import TextField from '@mui/material/TextField'
import { client, sentencesOf, unwrap } from '../../app/api'
import { leftWords, useLeft } from '../../app/left'
import { meKey, useMe } from '../../app/me'
import { Faults } from '../../shared/Faults'

/** The room of a class: opened and closed here, with its codes, what is said to all, and its time. */
export function RoomPanel({ id }: { id: number }) {
  const queries = useQueryClient()
  const me = useMe()
  const desk = me.data?.who === 'desk'
  const room = useQuery({ queryKey: ['room', 'room'], queryFn: () => unwrap(client.GET('/api/room')), staleTime: 0 })
  const addresses = useQuery({
    queryKey: ['room', 'addresses'],
    queryFn: () => unwrap(client.GET('/api/room/addresses')),
    enabled: desk,
    staleTime: 0,
  })
  const [left, setLeft] = useState<string[]>([])
  const [minutes, setMinutes] = useState('')
  const [text, setText] = useState('')
  const fresh = () => {
    void queries.invalidateQueries({ queryKey: ['room'] })
    void queries.invalidateQueries({ queryKey: meKey })
  }
  const open = useMutation({
    mutationFn: () =>
      unwrap(
        client.POST('/api/room', {
          body: {
            class: id,
            addresses: (addresses.data ?? []).map((a) => a.address).filter((a) => !left.includes(a)),
            minutes: minutes.trim() === '' ? null : Number(minutes.replace(',', '.')),
          },
        }),
      ),
    onSuccess: fresh,
  })
  const close = useMutation({ mutationFn: () => unwrap(client.DELETE('/api/room')), onSuccess: fresh })
  const say = useMutation({ mutationFn: (t: string) => unwrap(client.POST('/api/room/message', { body: { text: t } })), onSuccess: fresh })
  const more = useMutation({
    mutationFn: (n: number) => unwrap(client.POST('/api/room/minutes', { body: { minutes: n } })),
    onSuccess: fresh,
  })
  const letJoin = useMutation({ mutationFn: () => unwrap(client.POST('/api/room/let-join')), onSuccess: fresh })
  const educator = useMutation({ mutationFn: () => unwrap(client.POST('/api/room/educator')) })
  const secondsLeft = useLeft(room.data?.leftS)
  if (!room.data) return null
  const mine = room.data.open && room.data.class === id
  if (!mine)
    return (
      <section aria-label="The room">
        <h2 className="small-head">The room</h2>
        {room.data.open && <p>The room of {room.data.className} is open. Opening this one closes it.</p>}
        {!desk ? (
          <p className="muted">The room is opened at the desk.</p>
        ) : !addresses.data ? (
          <p className="muted">One moment…</p>
        ) : addresses.data.length === 0 ? (
          <p className="lead">
            This machine is on no network that others could reach it by. Join one first; without a network teams take turns at this desk.
          </p>
        ) : (
          <form
            onSubmit={(e) => {
              e.preventDefault()
              open.mutate()
            }}
          >
            <fieldset className="plain-set">
              <legend>Others can reach this machine at</legend>
              {addresses.data.map((a) => (
                <FormControlLabel
                  key={a.address}
                  control={
                    <Checkbox
                      checked={!left.includes(a.address)}
                      onChange={(e) => setLeft(e.target.checked ? left.filter((x) => x !== a.address) : [...left, a.address])}
                    />
                  }
                  label={<span className="mono">{a.url}</span>}
                />
              ))}
            </fieldset>
            <div className="row">
              <TextField
                size="small"
                label="The lesson lasts, minutes"
                value={minutes}
                onChange={(e) => setMinutes(e.target.value)}
                slotProps={{ htmlInput: { inputMode: 'numeric', maxLength: 4 } }}
                style={{ width: 210 }}
              />
              <Button type="submit" variant="contained" disabled={open.isPending || left.length >= addresses.data.length}>
                Open the room
              </Button>
            </div>
            <p className="fine muted">
              Until then nobody but you reaches Chiton. What goes over the network is not sealed: others on it could read along.
            </p>
          </form>
        )}
        {open.isError && <Faults sentences={sentencesOf(open.error)} />}
      </section>
    )
  return (
    <section aria-label="The room">
      <h2 className="small-head">The room is open</h2>
      <dl className="room-codes">
        <div>
          <dt>Address</dt>
          <dd className="mono">{room.data.urls.join(' or ')}</dd>
        </div>
        <div>
          <dt>Teams join with</dt>
          <dd className="mono big">{room.data.joinCode}</dd>
        </div>
        <div>
          <dt>Judges join with</dt>
          <dd className="mono">{room.data.judgeCode}</dd>
        </div>
        <div>
          <dt>Time</dt>
          <dd>{secondsLeft === null ? 'no end said' : leftWords(secondsLeft)}</dd>
        </div>
      </dl>
      {room.data.locked && (
        <div className="lost-bar" role="alert">
          <b>Joining waits for you.</b> {room.data.wrongCodes} wrong codes were tried.{' '}
          {desk && <Button onClick={() => letJoin.mutate()}>Let joining go on</Button>}
        </div>
      )}
      <div className="row">
        <Button component={Link} to="/class/board">
          Board
        </Button>
        <Button component={Link} to="/class/projector">
          For the wall
        </Button>
        <Button onClick={() => more.mutate(5)}>5 minutes more</Button>
        {desk && <Button onClick={() => educator.mutate()}>My other device</Button>}
        {desk && (
          <Button variant="text" onClick={() => close.mutate()} disabled={close.isPending}>
            Close the room
          </Button>
        )}
      </div>
      {educator.data && (
        <p role="status">
          Your other device joins with <b className="mono">{educator.data.code}</b>, once, within two minutes.
        </p>
      )}
      <form
        className="row"
        style={{ marginTop: 10 }}
        onSubmit={(e) => {
          e.preventDefault()
          say.mutate(text)
        }}
      >
        <TextField
          size="small"
          label="Say to all"
          value={text}
          onChange={(e) => setText(e.target.value)}
          slotProps={{ htmlInput: { maxLength: 200 } }}
          style={{ minWidth: 320 }}
        />
        <Button type="submit" disabled={say.isPending || text.trim() === ''}>
          Say it
        </Button>
        {room.data.message && (
          <Button
            variant="text"
            onClick={() => {
              setText('')
              say.mutate('')
            }}
          >
            Take it away
          </Button>
        )}
      </form>
      {room.data.message && <p className="muted">On every device now: {room.data.message}</p>}
      {[close, say, more, letJoin, educator].map((m, i) => m.isError && <Faults key={i} sentences={sentencesOf(m.error)} />)}
    </section>
  )
}
