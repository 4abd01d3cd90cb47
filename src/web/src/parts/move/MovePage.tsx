import { Later } from '../../shared/Later'

export function MovePage() {
  return (
    <Later name="Move">
      This part is not built yet. Here motor numbers will become real motion: you will run trials, see what was asked above the rule and what happened below it,
      and get the next value to try with its spread. Until then each copy has the speed, braking and delay it was delivered with, and Program and Simulate use them.
    </Later>
  )
}
