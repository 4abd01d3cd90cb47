/** A blank of a sum: what is typed into it. */
export type Blank = {
  unit?: string
  /** What stands there at first: a worked example. */
  start: string
  label: string
  choices?: string[]
  /** Several numbers, parted by blanks or semicolons. */
  list?: boolean
  /** One row a line, cells parted by semicolons: the keys of the cells, and which are words. */
  rows?: { cells: string[]; words?: string[]; nested?: string; by?: string }
  optional?: boolean
}

export type Sum = { name: string; title: string; asks: string[]; part: string; sentence: string; blanks: Record<string, Blank> }

const mm = (label: string, start: string): Blank => ({ label, start, unit: 'mm' })
const n = (label: string, start: string, unit = ''): Blank => ({ label, start, unit })
const opt = (b: Blank): Blank => ({ ...b, optional: true })

const period = n('Time between readings', '10', 'ms')
const needed = n('Readings in a row', '2')
const delay = n('From decision to motor', '40', 'ms')

/** Every sum as a sentence with blanks, and what people ask when they need it. */
export const sums: Sum[] = [
  {
    name: 'wheel-travel',
    title: 'Turns for a distance',
    part: 'Move',
    asks: ['how many degrees to drive 500 mm', 'how far does it go', 'wheel turns', 'how long does it take'],
    sentence:
      'A {wheelDiameterMm} mm wheel going {distanceMm} mm, with {motorTurnsPerWheelTurn} motor turns a wheel turn, at {motorSpeedDegPerS} motor deg/s, turns …',
    blanks: {
      wheelDiameterMm: mm('Wheel diameter', '62.4'),
      distanceMm: mm('Distance', '850'),
      motorTurnsPerWheelTurn: n('Motor turns a wheel turn', '1.5'),
      motorSpeedDegPerS: opt(n('Motor speed', '400', 'motor deg/s')),
    },
  },
  {
    name: 'turn',
    title: 'Degrees for a turn',
    part: 'Move',
    asks: ['how many degrees to turn the robot 90', 'spin or pivot', 'half turn', 'arc'],
    sentence:
      'To turn the robot {turnDeg}° by a {style} of radius {arcRadiusMm} mm, on {wheelDiameterMm} mm wheels {trackWidthMm} mm apart, with {motorTurnsPerWheelTurn} motor turns a wheel turn at {motorSpeedDegPerS} motor deg/s …',
    blanks: {
      turnDeg: n('Turn of the robot, right positive', '135', 'robot deg'),
      style: { label: 'Way of turning', start: 'spin', choices: ['spin', 'pivot', 'arc'] },
      arcRadiusMm: opt(mm('Radius of the arc', '200')),
      wheelDiameterMm: mm('Wheel diameter', '62.4'),
      trackWidthMm: mm('Track width', '118'),
      motorTurnsPerWheelTurn: n('Motor turns a wheel turn', '1'),
      motorSpeedDegPerS: opt(n('Motor speed', '300', 'motor deg/s')),
    },
  },
  {
    name: 'drive-fit',
    title: 'The next value to try',
    part: 'Move',
    asks: ['what should I try next', 'trial and error', 'seconds for a half turn', 'fit my trials'],
    sentence: 'I asked for and got {pairs}. To get {target}, with {confidence} confidence, next try …',
    blanks: {
      pairs: {
        label: 'Trials, one a line: asked; happened',
        start: '0.62; 74\n0.9; 118\n1.15; 155',
        rows: { cells: ['commanded', 'measured'] },
      },
      target: n('Wanted', '120'),
      confidence: n('Confidence', '0.95'),
    },
  },
  {
    name: 'gear-train',
    title: 'What gears make of a motor',
    part: 'Move',
    asks: ['gear ratio', 'how strong', 'how slow', 'torque'],
    sentence:
      'Gears {stages} on a motor of {motorSpeedDegPerS} deg/s and {motorTorqueMNm} mN·m, each passing on {efficiencyPerStage} of it, give …',
    blanks: {
      stages: {
        label: 'Stages, one a line: driver teeth; driven teeth',
        start: '8; 24\n12; 20',
        rows: { cells: ['driverTeeth', 'drivenTeeth'] },
      },
      motorSpeedDegPerS: n('Motor speed', '900', 'motor deg/s'),
      motorTorqueMNm: opt(n('Motor torque', '50', 'mN·m')),
      efficiencyPerStage: n('Share each stage passes on', '0.9'),
    },
  },
  {
    name: 'click-encoder',
    title: 'Do my clicks suffice',
    part: 'Move',
    asks: ['do my clicks suffice', 'home-made encoder', 'missed clicks', 'how fine can I count'],
    sentence:
      '{clicksPerEncoderTurn} clicks a turn, {encoderTurnsPerWheelTurn} encoder turns a turn of a {wheelDiameterMm} mm wheel, track {trackWidthMm} mm, read every {samplePeriodMs} ms, {readingsPerLevel} readings a level, down for {pressedFraction} of a click, wanted a turn of {targetTurnDeg}°, tell …',
    blanks: {
      clicksPerEncoderTurn: n('Clicks a turn', '4'),
      encoderTurnsPerWheelTurn: n('Encoder turns a wheel turn', '3'),
      wheelDiameterMm: mm('Wheel diameter', '43.2'),
      trackWidthMm: mm('Track width', '120'),
      samplePeriodMs: { ...period, start: '5' },
      readingsPerLevel: n('Readings a level', '2'),
      pressedFraction: n('Share of a click that is down', '0.5'),
      targetTurnDeg: opt(n('Turn wanted', '180', 'robot deg')),
    },
  },
  {
    name: 'axis-travel',
    title: 'Degrees and time for a lift or joint',
    part: 'Move',
    asks: ['how long to lift', 'when to give up', 'winch', 'screw', 'joint', 'stalled motor'],
    sentence:
      'A {kind} of {diameterMm} mm across or {leadMm} mm a turn, geared {gearRatio} to 1, going {travelMm} mm or {travelDeg}°, at {motorSpeedDegPerS} motor deg/s, given {stallFactor} times as long, …',
    blanks: {
      kind: { label: 'Kind', start: 'drum', choices: ['rack', 'drum', 'screw', 'joint'] },
      diameterMm: opt(mm('Diameter of pinion or drum', '20')),
      leadMm: opt(mm('Way a turn of the screw', '8')),
      gearRatio: n('Motor turns a turn', '3'),
      travelMm: opt(mm('Travel', '60')),
      travelDeg: opt(n('Travel of the joint', '90', '°')),
      motorSpeedDegPerS: n('Motor speed', '540', 'motor deg/s'),
      stallFactor: n('Times as long as it should', '1.5'),
    },
  },
  {
    name: 'load-seat',
    title: 'Where a load sits on the fork',
    part: 'Move',
    asks: ['does it tip', 'how fast may I turn with a load', 'fork', 'carry'],
    sentence:
      'A load {loadDepthMm} mm deep, {seatGapMm} mm from the heel of a {forkLengthMm} mm fork, the heel {heelAheadMm} mm ahead of the axis, friction {frictionCoefficient}, grip {gripExtraMPerS2} m/s² more, …',
    blanks: {
      loadDepthMm: mm('Depth of the load', '60'),
      seatGapMm: mm('Gap to the heel', '12'),
      forkLengthMm: mm('Fork length', '90'),
      heelAheadMm: mm('Heel ahead of the axis', '70'),
      frictionCoefficient: n('Friction', '0.35'),
      gripExtraMPerS2: n('Grip adds', '0', 'm/s²'),
    },
  },
  {
    name: 'move-end',
    title: 'Timed, counted or sensed',
    part: 'Move',
    asks: ['why does it not stop at the same place', 'timed or counted', 'which way to end a move', 'battery sag'],
    sentence:
      'Going {distanceMm} mm at {speedMmPerS} mm/s: speed varies {speedSdPercent} %, a count is {resolutionMm} mm, slip varies {slipSdPercent} %, coasting {coastSdMm} mm; or a sensor read every {samplePeriodMs} ms, {noiseSdMm} mm of noise, braking {brakeSdMm} mm …',
    blanks: {
      distanceMm: mm('Distance', '600'),
      speedMmPerS: n('Speed', '180', 'mm/s'),
      speedSdPercent: n('Speed varies', '3', '%'),
      resolutionMm: mm('One count', '2.5'),
      slipSdPercent: n('Slip varies', '1.2', '%'),
      coastSdMm: mm('Coasting varies', '2'),
      samplePeriodMs: period,
      noiseSdMm: mm('Noise of the sensor', '1'),
      brakeSdMm: mm('Braking varies', '1.5'),
    },
  },
  {
    name: 'path-error',
    title: 'Where a chain of moves ends',
    part: 'Move',
    asks: ['how far off after three moves', 'is the angle or the distance worse', 'does it reach the target', 'veer'],
    sentence: 'Starting within {startSdMm} mm and {startHeadingSdDeg}°, the moves {moves} end …',
    blanks: {
      startSdMm: mm('Spread of the start', '5'),
      startHeadingSdDeg: n('Spread of the heading', '1', '°'),
      moves: {
        label: 'Moves, one a line: straight; way; its SD; veer a metre, or turn; degrees; their SD',
        start: 'straight; 800; 6; 2\nturn; 90; 3\nstraight; 500; 4; 2',
        rows: { cells: [], by: 'path' },
      },
    },
  },
  {
    name: 'line-switch',
    title: 'Following a line by switching',
    part: 'Move',
    asks: ['how tight a curve', 'does it keep the line', 'weave', 'line following'],
    sentence:
      'Wheels at {fastMmPerS} and {slowMmPerS} mm/s, {trackWidthMm} mm apart, the sensor {sensorAheadMm} mm ahead, read every {samplePeriodMs} ms, {readingsNeeded} in a row, {actuatorDelayMs} ms late, …',
    blanks: {
      fastMmPerS: n('Fast wheel', '190', 'mm/s'),
      slowMmPerS: n('Slow wheel', '110', 'mm/s'),
      trackWidthMm: mm('Track width', '118'),
      sensorAheadMm: mm('Sensor ahead of the axle', '55'),
      samplePeriodMs: period,
      readingsNeeded: needed,
      actuatorDelayMs: delay,
    },
  },
  {
    name: 'line-gain',
    title: 'Gain for following a line',
    part: 'Move',
    asks: ['proportional gain', 'kp', 'it swings about the line', 'how fast can it follow'],
    sentence:
      'At {speedMmPerS} mm/s, wheels {trackWidthMm} mm apart, the sensor {sensorAheadMm} mm ahead, {contrastPercentPerMm} % a mm across the edge, wheels at most {maxWheelSpeedMmPerS} mm/s, read every {samplePeriodMs} ms, {actuatorDelayMs} ms late, …',
    blanks: {
      speedMmPerS: n('Speed', '150', 'mm/s'),
      trackWidthMm: mm('Track width', '118'),
      sensorAheadMm: mm('Sensor ahead of the axle', '60'),
      contrastPercentPerMm: n('Contrast', '4.2', '% a mm'),
      maxWheelSpeedMmPerS: n('Wheel speed at 100 %', '520', 'mm/s'),
      samplePeriodMs: period,
      actuatorDelayMs: delay,
    },
  },
  {
    name: 'stick-mix',
    title: 'One stick, two motors',
    part: 'Move',
    asks: ['remote control', 'dead band', 'mix the stick'],
    sentence: 'A stick {forwardDeg}° forward and {turnDeg}° right, dead within {deadbandDeg}°, full at {fullScaleDeg}°, drives …',
    blanks: {
      forwardDeg: n('Forward', '70', '°'),
      turnDeg: n('Right', '-35', '°'),
      deadbandDeg: n('Dead band', '15', '°'),
      fullScaleDeg: n('Full scale', '90', '°'),
    },
  },
  {
    name: 'meter',
    title: 'A charge by distance',
    part: 'Move',
    asks: ['what does the ride cost', 'charge by distance'],
    sentence:
      'A {wheelDiameterMm} mm wheel that turned {wheelDeg}°, at {ratePer100Mm} a 100 mm, {startCharge} to get in, coins of {roundTo}, …',
    blanks: {
      wheelDiameterMm: mm('Wheel diameter', '100'),
      wheelDeg: n('Turned', '3600', 'wheel deg'),
      ratePer100Mm: n('For 100 mm', '0.3'),
      startCharge: n('To get in', '1.5'),
      roundTo: n('Smallest coin', '0.05'),
    },
  },
  {
    name: 'branches',
    title: 'Things side by side',
    part: 'Move',
    asks: ['do they end together', 'who waits for whom', 'beeper and lamp in step'],
    sentence: 'Side by side run {branches} …',
    blanks: {
      branches: {
        label: 'One a line: branch; step; seconds; how often',
        start: 'back away; drive; 2; 1\nback away; turn; 0.5; 1\nbeeper; beep; 0.2; 5\nbeeper; gap; 0.1; 4',
        rows: { cells: ['label', 'seconds', 'repeats'], words: ['label'], nested: 'steps', by: 'name' },
      },
    },
  },
  {
    name: 'threshold',
    title: 'A threshold between two zones',
    part: 'Sense',
    asks: ['where to put the threshold', 'how many readings in a row', 'is my sensor good enough', 'hysteresis'],
    sentence:
      'Readings {lists}, in steps of {resolution}, one every {samplePeriodMs} ms, bearing {maxFalsePerHour} false switch an hour, placed by {school} with a harm of {costRatio}, …',
    blanks: {
      lists: {
        label: 'Two lines of readings',
        start: '31 38 35 29 42 36 33 40 30 37\n48 55 61 44 58 50 64 53 57 49',
        rows: { cells: ['readings'], by: 'lists' },
      },
      resolution: n('Smallest difference', '1'),
      samplePeriodMs: { ...period, start: '20' },
      maxFalsePerHour: n('False switches an hour', '1'),
      school: { label: 'School', start: 'equalRisk', choices: ['equalRisk', 'midpoint', 'midGap', 'cost'] },
      costRatio: n('Harm of a false rise over a false fall', '1'),
    },
  },
  {
    name: 'zones',
    title: 'Several zones of one sensor',
    part: 'Sense',
    asks: ['three zones', 'more than two colours of grey'],
    sentence: 'Zones {zones}, in steps of {resolution}, one every {samplePeriodMs} ms, bearing {maxFalsePerHour} false switch an hour, …',
    blanks: {
      zones: {
        label: 'One zone a line: name; readings',
        start: 'dark; 9 11 10 12 8\ngrey; 40 42 38 41 44\npale; 71 75 69 73 70',
        rows: { cells: ['readings'], by: 'zones' },
      },
      resolution: n('Smallest difference', '1'),
      samplePeriodMs: period,
      maxFalsePerHour: n('False switches an hour', '1'),
    },
  },
  {
    name: 'colours',
    title: 'Which colour is which',
    part: 'Sense',
    asks: ['red green blue', 'tell colours apart', 'taken for another'],
    sentence: 'Samples {classes} are told apart …',
    blanks: {
      classes: {
        label: 'One sample a line: class; red; green; blue',
        start: 'rust; 100; 50; 40\nrust; 104; 52; 39\nrust; 98; 49; 43\nweed; 50; 90; 45\nweed; 52; 94; 44\nweed; 49; 88; 47',
        rows: { cells: [], by: 'colours' },
      },
    },
  },
  {
    name: 'marker-pass',
    title: 'How fast can I pass a tag',
    part: 'Sense',
    asks: ['how fast can I pass a tag', 'why does it miss the marker', 'where does it stop', 'why does it overshoot'],
    sentence:
      'A {markerLengthMm} mm marker under a {spotDiameterMm} mm spot, one reading every {samplePeriodMs} ms, {readingsNeeded} needed, passed at {speedMmPerS} mm/s, {actuatorDelayMs} ms late, braked at {decelMmPerS2} mm/s², the sensor {sensorAheadMm} mm ahead, …',
    blanks: {
      markerLengthMm: mm('Marker', '48'),
      spotDiameterMm: mm('Spot', '8'),
      samplePeriodMs: period,
      readingsNeeded: needed,
      speedMmPerS: opt(n('Speed', '310', 'mm/s')),
      actuatorDelayMs: opt(delay),
      decelMmPerS2: opt(n('Braking', '2200', 'mm/s²')),
      sensorAheadMm: mm('Sensor ahead', '0'),
    },
  },
  {
    name: 'sweep',
    title: 'Turning and still noticing',
    part: 'Sense',
    asks: ['how fast may it turn to find the can', 'it turns past the target', 'beam'],
    sentence:
      'A target {targetWidthMm} mm wide, {rangeMm} mm away, half a beam {beamHalfAngleDeg}°, read every {samplePeriodMs} ms, {readingsNeeded} needed, turning {turnRateDegPerS}°/s, …',
    blanks: {
      targetWidthMm: mm('Width', '70'),
      rangeMm: mm('Away', '280'),
      beamHalfAngleDeg: n('Half the beam', '12', '°'),
      samplePeriodMs: { ...period, start: '30' },
      readingsNeeded: needed,
      turnRateDegPerS: opt(n('Turn rate', '45', '°/s')),
    },
  },
  {
    name: 'stop-distance',
    title: 'Why does it overshoot',
    part: 'Sense',
    asks: ['why does it overshoot', 'stop before the wall', 'when to brake', 'stop distance'],
    sentence:
      'Coming up at {approachSpeedMmPerS} mm/s, read every {samplePeriodMs} ms, {readingsNeeded} needed, {actuatorDelayMs} and {sensorDelayMs} ms late, to leave {targetGapMm} mm, braked at {decelMmPerS2} mm/s², noise {noiseSdMm} mm, blind below {blindZoneMm} mm, …',
    blanks: {
      approachSpeedMmPerS: n('Approach', '180', 'mm/s'),
      samplePeriodMs: { ...period, start: '30' },
      readingsNeeded: needed,
      actuatorDelayMs: delay,
      sensorDelayMs: n('Reading late by', '0', 'ms'),
      targetGapMm: mm('Gap wanted', '45'),
      decelMmPerS2: n('Braking', '900', 'mm/s²'),
      noiseSdMm: mm('Noise', '1.5'),
      blindZoneMm: mm('Blind zone', '0'),
    },
  },
  {
    name: 'edge-guard',
    title: 'Never fall from the table',
    part: 'Sense',
    asks: ['it falls off the table', 'edge of the table', 'two edge sensors'],
    sentence:
      'Sensors {sensorAheadMm} mm ahead of the wheels, at {sensorOffsetsMm} mm to the right, wheels {halfTrackMm} mm from the middle, up to {approachAngleMaxDeg}°, at {speedMmPerS} mm/s, read every {samplePeriodMs} ms, {readingsNeeded} needed, {actuatorDelayMs} ms late, braked at {decelMmPerS2} mm/s², …',
    blanks: {
      sensorAheadMm: mm('Sensors ahead', '55'),
      sensorOffsetsMm: { label: 'Each to the right', start: '-70; 70', unit: 'mm', list: true },
      halfTrackMm: mm('Middle to wheel', '60'),
      approachAngleMaxDeg: n('Steepest angle', '60', '°'),
      speedMmPerS: n('Speed', '150', 'mm/s'),
      samplePeriodMs: period,
      readingsNeeded: needed,
      actuatorDelayMs: delay,
      decelMmPerS2: n('Braking', '900', 'mm/s²'),
    },
  },
  {
    name: 'reaction',
    title: 'How early must it notice',
    part: 'Sense',
    asks: ['the lid is too late', 'catch what comes', 'diverter timing'],
    sentence:
      'What comes at {objectSpeedMmPerS} mm/s, read every {samplePeriodMs} ms, {readingsNeeded} needed, {actuatorDelayMs} ms late, a move of {actuatorTravelDeg}° at {actuatorDegPerS}°/s, …',
    blanks: {
      objectSpeedMmPerS: n('It comes at', '120', 'mm/s'),
      samplePeriodMs: { ...period, start: '20' },
      readingsNeeded: needed,
      actuatorDelayMs: delay,
      actuatorTravelDeg: n('Travel', '90', '°'),
      actuatorDegPerS: n('Speed of the move', '300', '°/s'),
    },
  },
  {
    name: 'push-over',
    title: 'Push a little on before backing',
    part: 'Sense',
    asks: ['push something off the table', 'tip the load over the edge'],
    sentence:
      'Edge sensor {sensorAheadMm} mm and bumper {bumperAheadMm} mm ahead of the wheels, an object of radius {objectRadiusMm} mm, stopping in {stopDistanceMm} mm, …',
    blanks: {
      sensorAheadMm: mm('Sensor ahead', '55'),
      bumperAheadMm: mm('Bumper ahead', '40'),
      objectRadiusMm: mm('Radius', '8'),
      stopDistanceMm: mm('Stopping way', '21.5'),
    },
  },
  {
    name: 'echo',
    title: 'What an echo time means',
    part: 'Sense',
    asks: ['echo time to distance', 'cold air', 'speed of sound'],
    sentence: 'An echo after {echoMicros} µs in air of {airTempC} °C …',
    blanks: { echoMicros: n('Echo after', '1750', 'µs'), airTempC: n('Air', '12', '°C') },
  },
  {
    name: 'power-budget',
    title: 'Will the pack last',
    part: 'Rig',
    asks: ['how long does the battery last', 'is the pack strong enough', 'separate supply'],
    sentence:
      '{cells} cells of {voltsPerCell} V and {capacityMAh} mAh giving at most {packMaxMA} mA, a controller of {controllerOwnMA} mA supplying {controllerOutputMaxMA} mA at {controllerOutputV} V, feed {devices} …',
    blanks: {
      cells: n('Cells', '4'),
      voltsPerCell: n('Volts a cell', '1.5', 'V'),
      capacityMAh: n('Charge', '1800', 'mAh'),
      packMaxMA: opt(n('Pack gives at most', '2000', 'mA')),
      controllerOwnMA: n('Controller', '120', 'mA'),
      controllerOutputMaxMA: n('It supplies at most', '500', 'mA'),
      controllerOutputV: n('It supplies', '5', 'V'),
      devices: {
        label: 'One device a line: name; how many; from V; to V; idle; working; stalled mA; share of time; pack or controller',
        start: 'eye; 1; 4; 6; 8; 22; 22; 1; controller\nmotor; 1; 4; 9; 0; 350; 900; 0.7; pack',
        rows: {
          cells: ['name', 'count', 'minV', 'maxV', 'idleMA', 'activeMA', 'stallMA', 'duty', 'suppliedBy'],
          words: ['name', 'suppliedBy'],
        },
      },
    },
  },
  {
    name: 'signal-level',
    title: 'May I connect these',
    part: 'Rig',
    asks: ['5 V on a 3.3 V pin', 'do I need a level shifter', 'divider'],
    sentence: 'An output of {outputHighV} V on an input that stands {inputMaxV} V and takes {inputHighMinV} V for high …',
    blanks: { outputHighV: n('Output', '5', 'V'), inputMaxV: n('Input stands', '3.6', 'V'), inputHighMinV: n('High from', '2', 'V') },
  },
  {
    name: 'success-rate',
    title: 'How often does it work',
    part: 'Prove',
    asks: ['7 of 10 worked', 'how sure can I be', 'success rate'],
    sentence: '{passes} of {runs} runs passed; with {confidence} confidence …',
    blanks: { passes: n('Passed', '7'), runs: n('Runs', '10'), confidence: n('Confidence', '0.95') },
  },
  {
    name: 'compare-rates',
    title: 'Is it better or was it luck',
    part: 'Prove',
    asks: ['is it better now', 'was it luck', 'how many more runs'],
    sentence: 'Before {before}, after {after}, with {confidence} confidence …',
    blanks: {
      before: { label: 'Before: passed; runs', start: '6; 10', rows: { cells: ['passes', 'runs'], by: 'one' } },
      after: { label: 'After: passed; runs', start: '9; 10', rows: { cells: ['passes', 'runs'], by: 'one' } },
      confidence: n('Confidence', '0.95'),
    },
  },
]

/** Lengths may be shown in another unit; what is kept and sent is in millimetres. */
export const lengthUnits = { mm: 1, cm: 10, in: 25.4 } as const
export type LengthUnit = keyof typeof lengthUnits

/** By how much a unit that holds a length differs when lengths are shown otherwise; 1 for others. */
export const lengthFactor = (unit: string | undefined, shown: LengthUnit) => (unit && /^mm(\/s²?)?$/.test(unit) ? lengthUnits[shown] : 1)
export const lengthWord = (unit: string, shown: LengthUnit) => (/^mm(\/s²?)?$/.test(unit) ? unit.replace('mm', shown) : unit)

const number = (text: string): number | string | null => {
  const t = text.trim().replace(',', '.')
  if (t === '') return null
  const v = Number(t)
  // What is no number is sent as it is, so that the server says which blank it is and what is allowed.
  return Number.isFinite(v) ? v : text.trim()
}
const numbers = (text: string) =>
  text
    .split(/[\s;]+/)
    .filter(Boolean)
    .map(number)

/** What is typed into a blank, as the sum takes it. */
export function read(blank: Blank, text: string): unknown {
  if (blank.choices) return text
  if (blank.list) return numbers(text)
  if (!blank.rows) return number(text)
  const lines = text
    .split('\n')
    .map((l) => l.trim())
    .filter(Boolean)
    .map((l) => l.split(';').map((c) => c.trim()))
  const { cells, words = [], by, nested } = blank.rows
  const row = (values: string[]) =>
    Object.fromEntries(cells.map((c, i) => [c, words.includes(c) ? (values[i] ?? null) : number(values[i] ?? '')]))
  if (by === 'one') return lines[0] ? row(lines[0]) : null
  if (by === 'lists') return lines.map((l) => ({ readings: numbers(l.join(' ')) }))
  if (by === 'zones') return lines.map((l) => ({ name: l[0], readings: numbers(l.slice(1).join(' ')) }))
  if (by === 'colours')
    return [...new Set(lines.map((l) => l[0]!))].map((name) => ({
      name,
      samples: lines.filter((l) => l[0] === name).map((l) => l.slice(1).map(number)),
    }))
  if (by === 'path')
    return lines.map((l) =>
      l[0] === 'turn'
        ? { kind: 'turn', turnDeg: number(l[1] ?? ''), turnSdDeg: number(l[2] ?? '') }
        : { kind: l[0], distanceMm: number(l[1] ?? ''), distanceSdMm: number(l[2] ?? ''), veerSdDegPerM: number(l[3] ?? '') },
    )
  if (nested && by)
    return [...new Set(lines.map((l) => l[0]!))].map((name) => ({
      [by]: name,
      [nested]: lines.filter((l) => l[0] === name).map((l) => row(l.slice(1))),
    }))
  return lines.map(row)
}

/** What stands in a blank: what was typed, or the example, in the unit in which lengths are shown. */
export function textOf(blank: Blank, typed: string | undefined, shown: LengthUnit): string {
  if (typed !== undefined) return typed
  const factor = lengthFactor(blank.unit, shown)
  if (factor === 1 || blank.rows || blank.choices) return blank.start
  return blank.start
    .split(';')
    .map((t) => trimmed(Number(t) / factor))
    .join('; ')
}

export const trimmed = (v: number) => String(Number(v.toPrecision(6)))

/** What was typed, in another unit of length. */
export function converted(sum: Sum, texts: Record<string, string>, from: LengthUnit, to: LengthUnit): Record<string, string> {
  return Object.fromEntries(
    Object.entries(texts).map(([key, text]) => {
      const blank = sum.blanks[key]
      const factor = lengthFactor(blank?.unit, from) / lengthFactor(blank?.unit, to)
      if (!blank || factor === 1 || blank.rows || blank.choices) return [key, text]
      return [
        key,
        text
          .split(';')
          .map((t) => {
            const v = number(t)
            return typeof v === 'number' ? trimmed(v * factor) : t.trim()
          })
          .join('; '),
      ]
    }),
  )
}

/** The whole input of a sum, in millimetres. */
export const inputOf = (sum: Sum, texts: Record<string, string>, shown: LengthUnit) =>
  Object.fromEntries(
    Object.entries(sum.blanks)
      .map(([key, blank]) => {
        const factor = blank.rows || blank.choices ? 1 : lengthFactor(blank.unit, shown)
        const value = read(blank, textOf(blank, texts[key], shown))
        const scaled = (v: unknown) => (typeof v === 'number' && factor !== 1 ? Number((v * factor).toPrecision(12)) : v)
        return [key, Array.isArray(value) ? value.map(scaled) : scaled(value)]
      })
      .filter(([, v]) => v !== null),
  )

/** Sums that answer what is asked, the likeliest first. */
export function find(text: string): Sum[] {
  const words = text
    .toLowerCase()
    .split(/\s+/)
    .filter((w) => w.length > 1)
  if (words.length === 0) return sums
  return sums
    .map((s) => {
      const all = [s.title, s.name, s.part, ...s.asks].map((a) => a.toLowerCase())
      return {
        s,
        hits: words.filter((w) => all.some((a) => a.includes(w))).length,
        whole: all.some((a) => a.includes(text.toLowerCase().trim())),
      }
    })
    .filter((x) => x.hits > 0)
    .sort((a, b) => Number(b.whole) - Number(a.whole) || b.hits - a.hits)
    .map((x) => x.s)
}
