import { useMutation } from '@tanstack/react-query'
import Button from '@mui/material/Button'
import { client, unwrap } from '../../app/api'
import { RoomStrip } from '../../app/RoomStrip'

/** What a judge sees. */
export default function JudgePage() {
  const leave = useMutation({
    mutationFn: () => unwrap(client.POST('/api/me/leave')),
    onSuccess: () => window.location.reload(),
  })
  return (
    <div className="app">
      <header className="spine">
        <span className="wordmark">chiton</span>
      </header>
      <div className="desk">
        <RoomStrip />
        <main className="page">
          <h1 className="page-title">You are a judge here</h1>
          <p className="lead">Heats that are to be scored stand here once the educator has begun them. None has begun.</p>
          <Button onClick={() => leave.mutate()}>Leave the room</Button>
        </main>
      </div>
    </div>
  )
}
