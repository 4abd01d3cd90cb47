import { Later } from '../../shared/Later'

export function CheckPage() {
  return (
    <Later name="Check">
      This part is not built yet. Here the whole sheet will stand read-only with every finding set under its line, worst first. The findings
      there are so far, about zones, markers and guessed numbers, already stand beside the lines in Program.
    </Later>
  )
}
