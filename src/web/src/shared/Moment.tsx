/** A page that is not there yet: it has a main part like any other, for those who go from part to part. */
export function Moment() {
  return (
    <main className="page muted">
      <p>One moment…</p>
    </main>
  )
}
