/** What was wrong with what was typed, one sentence a line, told to screen readers at once. */
export function Faults({ sentences }: { sentences: string[] }) {
  return (
    <div className="fault" role="alert">
      <ul style={{ paddingLeft: 18, margin: '4px 0' }}>
        {sentences.map((s, i) => (
          <li key={i}>{s}</li>
        ))}
      </ul>
    </div>
  )
}
