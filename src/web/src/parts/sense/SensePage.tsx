import { useEffect, useRef, useState } from 'react'
import { useMutation, useQuery } from '@tanstack/react-query'
import { Link, useLocation } from 'react-router'
import Button from '@mui/material/Button'
import LinearProgress from '@mui/material/LinearProgress'
import MenuItem from '@mui/material/MenuItem'
import TextField from '@mui/material/TextField'
import { client, Problem, sentencesOf, tabId, unwrap, type Sense } from '../../app/api'
import { useLive, useProgress } from '../../app/live'
import { partKey, useRefresh, useRig } from '../../app/rig'
import { Note } from '../../shared/NoteCard'
import { show } from '../../shared/format'
import { AddZone } from './AddZone'
import { Arithmetic } from './Arithmetic'
import { Aside } from './Aside'
import { Dots } from './Dots'
import { History } from './History'
import { Schools } from './Schools'
import { TakeDialog } from './TakeDialog'
import { Taker, taker } from './taker'

export default function SensePage() {
  const { rig } = useRig()
  const query = useQuery({
    queryKey: partKey(rig.id, 'sense', rig.copy),
    queryFn: () => unwrap(client.GET('/api/rigs/{id}/sense', { params: { path: { id: rig.id }, query: { copy: rig.copy } } })),
  })
  if (query.isError) return <main className="page"><p className="fault" role="alert">{sentencesOf(query.error).join(' ')}</p></main>
  if (!query.data) return <p className="page muted">One moment…</p>
  return <SenseView key={`${rig.copy}-${query.data.sensor}`} sense={query.data} />
}

function SenseView({ sense }: { sense: Sense }) {
  const { rig, say } = useRig()
  const { search } = useLocation()
  const refresh = useRefresh()
  const [zone, setZone] = useState(sense.zones.at(-1)?.zone ?? '')
  const [over, setOver] = useState(sense.zones[0]?.zone ?? '')
  const [paused, setPaused] = useState(false)
  const [job, setJob] = useState<string | null>(null)
  const [fresh, setFresh] = useState<number[]>([])
  const [pasting, setPasting] = useState<{ text: string; csv: boolean } | null>(null)
  const [dropping, setDropping] = useState(false)
  const file = useRef<HTMLInputElement>(null)
  const live = useLive(rig.id, rig.copy, sense.sensor, over, paused)
  const progress = useProgress(job, readings => setFresh(f => [...f, ...readings]))

  const record = useMutation({
    mutationFn: (name: string) =>
      unwrap(client.POST('/api/rigs/{id}/recordings', { params: { path: { id: rig.id } }, body: { copy: rig.copy, sensor: sense.sensor, zone, seconds: 3, job: name, by: tabId, ...taker() } })),
    onSuccess: async taken => {
      say(taken.stopped ? `Stopped. The ${taken.count} readings until then are kept.` : `${taken.count} readings recorded into ${zone}.`)
      await refresh()
    },
    onError: e => say(sentencesOf(e).join(' ')),
    onSettled: () => { setJob(null); setFresh([]) },
  })
  const start = () => {
    if (record.isPending) return
    const name = crypto.randomUUID()
    setOver(zone)
    setJob(name)
    record.mutate(name)
  }
  const choose = useMutation({
    mutationFn: ({ school, costRatio }: { school: string; costRatio: number }) =>
      unwrap(client.PUT('/api/rigs/{id}/calibration', { params: { path: { id: rig.id } }, body: { copy: rig.copy, sensor: sense.sensor, baseVersion: sense.version, school, costRatio, by: tabId } })),
    onSuccess: async () => {
      say('Threshold moved. The zones of this copy use it now.')
      await refresh()
    },
    onError: async e => {
      say(e instanceof Problem && e.status === 409 ? `${e.message} ${e.detail ?? ''} Here is the new state; choose again.` : sentencesOf(e).join(' '))
      if (e instanceof Problem && e.status === 409) await refresh()
    },
  })
  const begin = useRef(start)
  begin.current = start
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const typing = (e.target as HTMLElement).closest('input, textarea, select, [role="dialog"], [role="listbox"], [role="combobox"]') !== null
      if (!typing && !e.ctrlKey && !e.metaKey && !e.altKey && e.key.toLowerCase() === 'r') begin.current()
    }
    window.addEventListener('keydown', onKey)
    return () => window.removeEventListener('keydown', onKey)
  }, [])

  const dropFile = async (dropped: File | undefined) => {
    if (!dropped) return
    if (dropped.size > 4 * 1024 * 1024) {
      say(`“${dropped.name}” is larger than 4 MB. Split it, or take every second reading.`)
      return
    }
    setPasting({ text: await dropped.text(), csv: true })
  }

  return (
    <main className="page"
      onDragOver={e => { e.preventDefault(); setDropping(true) }} onDragLeave={() => setDropping(false)}
      onDrop={e => { e.preventDefault(); setDropping(false); void dropFile(e.dataTransfer.files[0]) }}
      style={dropping ? { outline: '2px dashed var(--teal)', outlineOffset: -8 } : undefined}>
      <div className="sensor-names">
        {sense.sensors.map(s => <div key={s.name} className={s.name === sense.sensor ? 'on' : ''}>{s.name}<em>{s.about}</em></div>)}
      </div>
      <div className="row">
        <span className="live" data-testid="live">{live ? `${show(live.reading)} %` : '– %'}</span>
        <span className="fine muted">now {live?.zone ? <span className="zone">{live.zone}</span> : 'no zone'}, read every {show(sense.samplePeriodMs)} ms</span>
        <span className="hidden-text" aria-live="polite">{live?.zone ? `Now in ${live.zone}` : ''}</span>
        <TextField select size="small" label="Held over" value={over} onChange={e => setOver(e.target.value)} sx={{ minWidth: 130 }} slotProps={{ htmlInput: { 'aria-label': 'Held over' } }}>
          {sense.surfaces.map(s => <MenuItem key={s} value={s}>{s}</MenuItem>)}
        </TextField>
        <Button onClick={() => setPaused(!paused)} aria-pressed={paused}>{paused ? 'Go on' : 'Pause'}</Button>
        <span className="push" />
        <TextField select size="small" label="Threshold placed at" value={sense.school} onChange={e => choose.mutate({ school: e.target.value, costRatio: sense.costRatio })} sx={{ minWidth: 190 }}>
          {sense.schools.map(s => <MenuItem key={s.school} value={s.school} disabled={s.threshold === null}>{s.name}</MenuItem>)}
        </TextField>
      </div>
      {sense.zones.every(z => z.readings.length === 0) && <p className="lead">No readings yet. Hold the rig over one zone and record, then over the next; three readings of two zones place the first threshold.</p>}
      <Dots sense={sense} live={live?.reading ?? null} fresh={job ? { zone, readings: fresh } : null} />
      <div className="row" style={{ margin: '6px 0 10px' }}>
        <TextField select size="small" label="Take readings into" value={zone} onChange={e => setZone(e.target.value)} sx={{ minWidth: 150 }} disabled={record.isPending}>
          {sense.zones.map(z => <MenuItem key={z.zone} value={z.zone}>{z.zone}</MenuItem>)}
        </TextField>
        <Button onClick={start} disabled={record.isPending} data-testid="record">Record 3 s into {zone}<kbd>R</kbd></Button>
        <Button onClick={() => setPasting({ text: '', csv: false })} disabled={record.isPending}>Paste or type</Button>
        <Button onClick={() => file.current?.click()} disabled={record.isPending}>Open a CSV</Button>
        <input ref={file} type="file" accept=".csv,text/csv,text/plain" hidden aria-label="CSV file" onChange={e => { void dropFile(e.target.files?.[0]); e.target.value = '' }} />
        <AddZone sense={sense} />
        <Button component={Link} to={{ pathname: `/rigs/${rig.id}/sense/card`, search }}>Print the card</Button>
        {record.isPending && (
          <span className="row" style={{ minWidth: 260 }} data-testid="recording">
            <LinearProgress variant="determinate" value={progress ? (100 * progress.done) / progress.total : 0} aria-label="Recording" sx={{ width: 120 }} />
            <span className="fine mono">{progress ? `${progress.done} of ${progress.total}` : 'starting'}</span>
            <Button onClick={() => job && void client.DELETE('/api/jobs/{job}', { params: { path: { job } } })}>Stop</Button>
          </span>
        )}
      </div>
      {sense.pairs.length > 0 && <p className="fine muted">The line is the threshold. The band is its hysteresis: a zone is left only by readings beyond the far side of the band, so a wobble inside it switches nothing.</p>}
      <Taker />
      {sense.cautions.map((c, i) => <p key={i} className="fault">{c}</p>)}
      <h2 className="hidden-text">What the readings say</h2>
      <div className="cols">
        {sense.pairs.map(p => (
          <Note key={p.lower + p.upper} lead tone={p.sum.verdict?.grade ?? ''} word={capital(p.sum.verdict?.grade ?? '')} title={`${capital(p.lower)} against ${p.upper}`}>
            {[p.say, p.fallback, ...p.sum.cautions].filter(Boolean).join(' ')}
          </Note>
        ))}
        {sense.marker && (
          <Note lead tone="" word="What follows" title={sense.marker.headline} action={<Button component={Link} to={{ pathname: `/rigs/${rig.id}/program`, search }}>Open in Program</Button>}>
            {sense.marker.say}
          </Note>
        )}
        <section className="note lead-note">
          <small>Where to put it</small>
          <Schools sense={sense} onChoose={(school, costRatio) => choose.mutate({ school, costRatio })} busy={choose.isPending} />
        </section>
      </div>
      <Aside sense={sense} />
      {sense.pairs.map(p => <Arithmetic key={p.lower} pair={p} />)}
      <History sense={sense} />
      {pasting && <TakeDialog sense={sense} zone={zone} initial={pasting} onClose={() => setPasting(null)} />}
    </main>
  )
}

const capital = (s: string) => s.charAt(0).toUpperCase() + s.slice(1)
