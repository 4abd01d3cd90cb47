import { newKey } from '../../app/keys'
import { useEdit } from '../../app/edit'
import { Term } from '../../shared/Term'
import { settings } from '../../app/settings'
import { useEffect, useRef, useState } from 'react'
import { useMutation, useQuery } from '@tanstack/react-query'
import { Link, useLocation, useSearchParams } from 'react-router'
import Button from '@mui/material/Button'
import LinearProgress from '@mui/material/LinearProgress'
import { client, Problem, sentencesOf, tabId, unwrap, type Schemas, type Sense } from '../../app/api'
import { useLive, useProgress } from '../../app/live'
import { partKey, useRefresh, useRig } from '../../app/rig'
import { CopyKind } from '../../shared/CopyKind'
import { Note } from '../../shared/NoteCard'
import { OnLine, useLine } from '../../shared/OnLine'
import { show } from '../../shared/format'
import { AddZone } from './AddZone'
import { Arithmetic } from './Arithmetic'
import { Aside } from './Aside'
import { Bands } from './Bands'
import { ColourField } from './ColourField'
import { Dots } from './Dots'
import { History } from './History'
import { Judgement } from './Judgement'
import { NamesTable } from './NamesTable'
import { Schools } from './Schools'
import { FilledSums } from '../sums/FilledSums'
import { SwitchView } from './SwitchView'
import { TakeDialog } from './TakeDialog'
import { PartFindings } from '../../shared/PartFindings'
import { supply, taker, Taker } from './taker'
import { Moment } from '../../shared/Moment'

/** Readings become zones: taken, looked at, judged, kept. */
export default function SensePage() {
  const { rig } = useRig()
  const [search] = useSearchParams()
  const sensor = search.get('sensor')
  const query = useQuery({
    queryKey: [...partKey(rig.id, 'sense', rig.copy), sensor],
    queryFn: () =>
      unwrap(
        client.GET('/api/rigs/{id}/sense', { params: { path: { id: rig.id }, query: { copy: rig.copy, ...(sensor ? { sensor } : {}) } } }),
      ),
  })
  if (query.isError)
    return (
      <main className="page">
        <h2 className="page-title">
          {query.error instanceof Problem && query.error.status === 404 ? 'This rig has no sensor yet' : 'Sense'}
        </h2>
        <p className="lead" role="alert">
          {sentencesOf(query.error).join(' ')}
        </p>
        <p>
          <Link to={`/rigs/${rig.id}/rig/describe`}>Describe its sensors in Rig</Link>
        </p>
      </main>
    )
  if (!query.data) return <Moment />
  return <SenseView key={`${rig.copy}-${query.data.sensor}`} sense={query.data} />
}

function SenseView({ sense }: { sense: Sense }) {
  const { rig, say } = useRig()
  const { search } = useLocation()
  const [params, setParams] = useSearchParams()
  const refresh = useRefresh()
  const [zone, setZone] = useState(sense.zones.at(-1)?.zone ?? '')
  const things = sense.things
  const named = (z: string) => things.find((t) => t.name === z)?.name
  const [over, setOver] = useState(named(sense.zones[0]?.zone ?? '') ?? things[0]?.name ?? '')
  const [amount, setAmount] = useState(String(sense.amount?.usual ?? ''))
  const [care, setCare] = useState<NonNullable<Schemas['BenchCare']>>('asItIs')
  const [seconds, setSeconds] = useState('3')
  const [paused, setPaused] = useState(false)
  const [job, setJob] = useState<string | null>(null)
  const [fresh, setFresh] = useState<number[]>([])
  const [pasting, setPasting] = useState<{ text: string; csv: boolean } | null>(null)
  const [dropping, setDropping] = useState(false)
  const file = useRef<HTMLInputElement>(null)
  const asks = things.find((t) => t.name === over)?.asks === true && sense.amount !== null
  const number = asks ? Number(amount.replace(',', '.')) : null
  const real = rig.kind === 'real'
  const line = useLine()
  const joined = real && line?.standing === 'joined'
  // What can be recorded here: the stand-in, or the real thing while it is on its line.
  const recordable = !real || joined
  const live = useLive(rig.id, rig.copy, sense.sensor, over, number, paused || !recordable, line?.joins ?? 0)
  const progress = useProgress(job, (readings) => setFresh((f) => [...f, ...readings]))

  const record = useMutation({
    mutationFn: (name: string) =>
      unwrap(
        client.POST('/api/rigs/{id}/recordings', {
          params: { path: { id: rig.id } },
          body: {
            copy: rig.copy,
            sensor: sense.sensor,
            zone,
            seconds: Number(seconds.replace(',', '.')),
            job: name,
            by: tabId,
            over: joined ? null : over,
            amount: joined ? null : number,
            care,
            supplyV: sense.kind === 'probe' ? supply() : null,
            ...taker(),
          },
        }),
      ),
    onSuccess: async (taken) => {
      say(
        [
          taken.stopped
            ? taken.say || `Stopped. The ${taken.count} readings until then are kept.`
            : `${taken.count} readings recorded into ${zone}.`,
          taken.stopped ? '' : taken.say,
        ]
          .filter(Boolean)
          .join(' '),
      )
      await refresh()
    },
    onError: (e) => say(sentencesOf(e).join(' ')),
    onSettled: () => {
      setJob(null)
      setFresh([])
    },
  })
  // The zone that is recorded is what the sensor is held over, where the bench has a thing of that name.
  const chooseZone = (z: string) => {
    setZone(z)
    const thing = named(z)
    if (thing) setOver(thing)
  }
  const start = () => {
    if (record.isPending || zone === '' || !recordable) return
    const name = newKey()
    setJob(name)
    record.mutate(name)
  }
  const choose = useEdit({
    call: ({ school, costRatio }: { school: string; costRatio: number }) =>
      unwrap(
        client.PUT('/api/rigs/{id}/calibration', {
          params: { path: { id: rig.id } },
          body: { copy: rig.copy, sensor: sense.sensor, baseVersion: sense.version, school, costRatio, by: tabId },
        }),
      ),
    said: () => 'Threshold moved. The zones of this copy use it now.',
    aloud: true,
  })
  const clear = useEdit({
    call: () =>
      unwrap(
        client.POST('/api/rigs/{id}/sense/clear', {
          params: { path: { id: rig.id } },
          body: { copy: rig.copy, sensor: sense.sensor, baseVersion: sense.version, zone, by: tabId },
        }),
      ),
    said: () => `${zone} starts anew. Its earlier readings stay in the earlier versions.`,
    aloud: true,
  })
  const begin = useRef(start)
  begin.current = start
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const typing =
        (e.target as HTMLElement).closest('input, textarea, select, [role="dialog"], [role="listbox"], [role="combobox"]') !== null
      if (!typing && !e.ctrlKey && !e.metaKey && !e.altKey && settings().keys && e.key.toLowerCase() === 'r') begin.current()
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
  const kept = sense.zones.find((z) => z.zone === zone)?.readings.length ?? 0
  const scalar = sense.schools.length > 0
  const cardSearch = () => {
    const p = new URLSearchParams(params)
    p.set('sensor', sense.sensor)
    return `?${p}`
  }

  return (
    <main
      className="page"
      onDragOver={(e) => {
        e.preventDefault()
        setDropping(true)
      }}
      onDragLeave={() => setDropping(false)}
      onDrop={(e) => {
        e.preventDefault()
        setDropping(false)
        void dropFile(e.dataTransfer.files[0])
      }}
      style={dropping ? { outline: '2px dashed var(--teal)', outlineOffset: -8 } : undefined}
    >
      <nav className="sensor-names" aria-label="Sensors">
        {sense.sensors.map((s) => (
          <button
            key={s.name}
            className={s.name === sense.sensor ? 'on' : ''}
            aria-current={s.name === sense.sensor ? 'page' : undefined}
            onClick={() =>
              setParams((p) => {
                p.set('sensor', s.name)
                return p
              })
            }
          >
            {s.name}
            <em>
              {s.about}
              {s.grade ? (
                <>
                  , <span className={s.grade}>{s.grade}</span>
                </>
              ) : (
                ', no readings'
              )}
            </em>
          </button>
        ))}
      </nav>
      {sense.view === 'none' ? (
        <p className="lead">
          This sensor counts the turns of its motor and needs no zones. Positions of what the motor moves are found by hand, in{' '}
          <Link to={{ pathname: `/rigs/${rig.id}/rig/describe`, search }}>Rig</Link>.
        </p>
      ) : (
        <>
          <CopyKind />
          <OnLine line={line} />
          <div className="row">
            {recordable && (
              <>
                <span className="live" data-testid="live">
                  {live
                    ? live.reading === null
                      ? 'nothing heard'
                      : live.all
                        ? live.all.join(' ')
                        : (live.word ?? `${show(live.reading)} ${sense.unit}`)
                    : `– ${sense.unit}`}
                </span>
                <span className="fine muted">
                  now {live?.zone ? <span className="zone">{live.zone}</span> : 'no zone'}, read every {show(sense.samplePeriodMs)} ms
                </span>
                <span className="hidden-text" aria-live="polite">
                  {live?.zone ? `Now in ${live.zone}` : ''}
                </span>
                {!real && (
                  <label className="fine">
                    Held over{' '}
                    <select className="figure" aria-label="Held over" value={over} onChange={(e) => setOver(e.target.value)}>
                      {things.map((t) => (
                        <option key={t.name}>{t.name}</option>
                      ))}
                    </select>
                  </label>
                )}
                {!real && asks && sense.amount && (
                  <label className="fine">
                    {sense.amount.label}{' '}
                    <input
                      className="mono figure"
                      style={{ width: 70 }}
                      inputMode="decimal"
                      aria-label={`How much, in ${sense.amount.unit}`}
                      value={amount}
                      onChange={(e) => setAmount(e.target.value)}
                    />{' '}
                    {sense.amount.unit}
                  </label>
                )}
                {!real && sense.view !== 'switch' && (
                  <select
                    className="figure"
                    aria-label="Light and quiet"
                    value={care}
                    onChange={(e) => setCare(e.target.value as NonNullable<Schemas['BenchCare']>)}
                  >
                    <option value="asItIs">as it is</option>
                    <option value="shaded">shaded and steady</option>
                    <option value="flickering">flickering or shaken</option>
                  </select>
                )}
                <Button onClick={() => setPaused(!paused)} aria-pressed={paused}>
                  {paused ? 'Go on' : 'Pause'}
                </Button>
              </>
            )}
            <span className="push" />
            {scalar && (
              <label className="fine">
                Threshold placed at{' '}
                <select
                  className="figure"
                  aria-label="Threshold placed at"
                  value={sense.school}
                  onChange={(e) => choose.mutate({ school: e.target.value, costRatio: sense.costRatio })}
                >
                  {sense.schools.map((s) => (
                    <option key={s.school} value={s.school} disabled={s.threshold === null}>
                      {s.name}
                    </option>
                  ))}
                </select>
              </label>
            )}
          </div>
          {sense.zones.length === 0 && (
            <p className="lead">
              This sensor has no zones yet. A zone is a name for a range of readings; add two or more, then record each.
            </p>
          )}
          {sense.zones.length > 0 && sense.zones.every((z) => z.readings.length === 0) && (
            <p className="lead">
              {joined
                ? 'No readings yet. Hold the robot over one zone and record, then over the next; three readings of two zones place the first threshold.'
                : real
                  ? 'No readings yet. Type or paste what the robot on the table read, zone by zone, or open a file; three readings of two zones place the first threshold.'
                  : 'No readings yet. Hold the rig over one zone and record, then over the next; three readings of two zones place the first threshold.'}
            </p>
          )}
          {(sense.view === 'scalar' || sense.view === 'bands') && sense.zones.length > 0 && (
            <Dots sense={sense} live={live?.reading ?? null} fresh={job ? { zone, readings: fresh } : null} />
          )}
          {sense.view === 'colours' && <ColourField sense={sense} live={live?.all ?? null} />}
          {sense.view === 'names' && <NamesTable sense={sense} />}
          {sense.view === 'switch' && <SwitchView sense={sense} />}
          <div className="row" style={{ margin: '6px 0 10px' }}>
            {sense.zones.length > 0 && (
              <>
                <label className="fine">
                  Into{' '}
                  <select
                    className="figure"
                    aria-label="Take readings into"
                    value={zone}
                    onChange={(e) => chooseZone(e.target.value)}
                    disabled={record.isPending}
                  >
                    {sense.zones.map((z) => (
                      <option key={z.zone}>{z.zone}</option>
                    ))}
                  </select>
                </label>
                {recordable && (
                  <>
                    <label className="fine">
                      for{' '}
                      <input
                        className="mono figure"
                        style={{ width: 46 }}
                        inputMode="decimal"
                        aria-label="Seconds to record, 0.5 to 60"
                        value={seconds}
                        onChange={(e) => setSeconds(e.target.value)}
                      />{' '}
                      s
                    </label>
                    <Button onClick={start} disabled={record.isPending} data-testid="record">
                      Record {seconds} s into {zone}
                      <kbd>R</kbd>
                    </Button>
                  </>
                )}
                <Button onClick={() => setPasting({ text: '', csv: false })} disabled={record.isPending}>
                  Paste or type
                </Button>
                <Button onClick={() => file.current?.click()} disabled={record.isPending}>
                  Open a CSV
                </Button>
              </>
            )}
            <input
              ref={file}
              type="file"
              accept=".csv,text/csv,text/plain"
              hidden
              aria-label="CSV file"
              onChange={(e) => {
                void dropFile(e.target.files?.[0])
                e.target.value = ''
              }}
            />
            <AddZone sense={sense} />
            {kept > 0 && (
              <Button variant="text" onClick={() => clear.mutate()} disabled={clear.isPending}>
                Start {zone} anew
              </Button>
            )}
            <Button component={Link} to={{ pathname: `/rigs/${rig.id}/sense/card`, search: cardSearch() }}>
              Print the card
            </Button>
            {record.isPending && (
              <span className="row" style={{ minWidth: 260 }} data-testid="recording">
                <LinearProgress
                  variant="determinate"
                  value={progress ? (100 * progress.done) / progress.total : 0}
                  aria-label="Recording"
                  sx={{ width: 120 }}
                />
                <span className="fine mono">
                  {progress ? `${progress.done} of ${progress.total}` : 'starting'}
                  {progress?.remainingS ? `, ${show(progress.remainingS, 2)} s left` : ''}
                </span>
                <Button onClick={() => job && void client.DELETE('/api/jobs/{job}', { params: { path: { job } } })}>Stop</Button>
              </span>
            )}
          </div>
          {sense.pairs.length > 0 && (
            <p className="fine muted">
              After ± stands twice the spread. The line is the threshold. The band is its hysteresis: a zone is left only by readings beyond
              the far side of the band, so a wobble inside it switches nothing.
            </p>
          )}
          <Taker fed={sense.kind === 'probe'} />
          {sense.cautions.length > 0 && (
            <ul className="fine risky" style={{ margin: '0 0 8px', paddingLeft: 18 }}>
              {sense.cautions.map((c, i) => (
                <li key={i}>{c}</li>
              ))}
            </ul>
          )}
          <h2 className="hidden-text">What the readings say</h2>
          {scalar && (
            <p className="fine muted">
              Programs speak of <Term word="zone">zones</Term>; between two of them lies a <Term word="threshold">threshold</Term>.
            </p>
          )}
          <Judgement sense={sense} />
          <div className="cols">
            {sense.pairs.map((p) => (
              <Note
                key={p.lower + p.upper}
                lead
                tone={p.sum.verdict?.grade ?? ''}
                word={capital(p.sum.verdict?.grade ?? '')}
                title={`${capital(p.lower)} against ${p.upper}`}
              >
                {[p.say, p.fallback, ...p.sum.cautions].filter(Boolean).join(' ')}
              </Note>
            ))}
            {sense.rolling?.trial && sense.pairs.length > 0 && (
              <Note
                lead
                tone=""
                word="While it rolls"
                title={`Readings scatter ${show(sense.rolling.tremble.value, 2)} % of the reading more for each m/s`}
                action={
                  <Button
                    component={Link}
                    to={{
                      pathname: `/rigs/${rig.id}/move`,
                      search: moveSearch(search, sense.rolling.trial),
                    }}
                  >
                    {sense.rolling.tremble.kind === 'measured' ? 'Find it again' : 'Find it by trials'}
                  </Button>
                }
              >
                {capital(sense.rolling.tremble.kind)}, {sense.rolling.tremble.source}. Zones are judged for readings taken at{' '}
                {show(sense.rolling.speedMmPerS, 3)} mm/s.
              </Note>
            )}
            {sense.marker && (
              <Note
                lead
                tone=""
                word="What follows"
                title={sense.marker.headline}
                action={
                  <Button component={Link} to={{ pathname: `/rigs/${rig.id}/program`, search }}>
                    Open in Program
                  </Button>
                }
              >
                {sense.marker.say}
              </Note>
            )}
            {scalar && (
              <section className="note lead-note">
                <small>Where to put it</small>
                <Schools sense={sense} onChoose={(school, costRatio) => choose.mutate({ school, costRatio })} busy={choose.isPending} />
              </section>
            )}
          </div>
          {sense.view === 'bands' && sense.zones.length > 0 && <Bands key={JSON.stringify(sense.bands?.bands)} sense={sense} />}
          <Aside sense={sense} />
          <FilledSums sums={sense.sums} of={sense.sensor} />
          {sense.pairs.map((p) => (
            <Arithmetic key={p.lower} pair={p} />
          ))}
          <PartFindings part="sense" first={sense.sensor} />
          <History sense={sense} />
        </>
      )}
      {pasting && <TakeDialog sense={sense} zone={zone} initial={pasting} onClose={() => setPasting(null)} />}
    </main>
  )
}

/** The same copy, at the trials of a motion. */
function moveSearch(search: string, trial: { mechanism: string; key: string }) {
  const p = new URLSearchParams(search)
  p.set('view', 'trials')
  p.set('mechanism', trial.mechanism)
  p.set('motion', trial.key)
  return p.toString()
}

const capital = (s: string) => s.charAt(0).toUpperCase() + s.slice(1)
