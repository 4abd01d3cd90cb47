import { Later } from '../../shared/Later'

export function LogPage() {
  return (
    <Later name="Log">
      This part is not built yet. Here real trials will be kept: what happened on the real rig, with which revision, on which copy, in which
      light, and whether it agrees with what was predicted.
    </Later>
  )
}
