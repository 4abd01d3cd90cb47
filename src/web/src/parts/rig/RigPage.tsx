import { Later } from '../../shared/Later'
import { useRig } from '../../app/rig'

export function RigPage() {
  const { rig } = useRig()
  return (
    <Later name="Rig">
      This part is not built yet. Here you will describe the {rig.name.toLowerCase()} and every other rig: its controllers with their sockets and pins, its sensors,
      motors and mechanisms, the port map with every clash explained, the power it needs, and a preflight that tells the wrong socket from the dead sensor.
      For now the rig of the demo is fixed: {rig.devices.join(', ')}.
    </Later>
  )
}
