import { Problem } from '../../app/api'

/** What a sum answers, by field. */
export type Figures = Record<string, number | null | { angleDeg: number; marginMm: number }[]>
export type Answer = {
  result: Figures
  steps: { say: string; arithmetic: string; value: number | null; unit: string }[]
  cautions: string[]
  verdict: { grade: string; say: string } | null
}

/** What results are called, and their units. */
export const names: Record<string, [string, string]> = {
  stopDistanceMm: ['From noticing to rest', 'mm'],
  headOnMarginMm: ['Left head on', 'mm'],
  worstMarginMm: ['Left at the worst angle', 'mm'],
  worstAngleDeg: ['That angle', '°'],
  maxSafeSpeedMmPerS: ['Fastest safe speed', 'mm/s'],
  extraForwardMinMm: ['Go on at least', 'mm'],
  extraForwardMaxMm: ['Go on at most', 'mm'],
  reactionMinMm: ['Reaction, least', 'mm'],
  reactionMaxMm: ['Reaction, most', 'mm'],
  brakingMm: ['Braking', 'mm'],
  triggerDistanceMm: ['Act when it reads', 'mm'],
  gapLowMm: ['Gap at rest, least', 'mm'],
  gapHighMm: ['Gap at rest, most', 'mm'],
  visibleArcDeg: ['It is seen over', '°'],
  maxTurnRateDegPerS: ['Turn at most', '°/s'],
  readingsGuaranteed: ['Readings for certain', ''],
  extraTurnDeg: ['Noticed before facing it by', '°'],
  circumferenceMm: ['One wheel turn covers', 'mm'],
  wheelTurns: ['Turns of the wheel', ''],
  wheelDeg: ['Wheel degrees', 'wheel deg'],
  motorDeg: ['Motor degrees', 'motor deg'],
  durationS: ['It takes', 's'],
  leftWheelDeg: ['Left wheel', 'wheel deg'],
  rightWheelDeg: ['Right wheel', 'wheel deg'],
  leftMotorDeg: ['Left motor', 'motor deg'],
  rightMotorDeg: ['Right motor', 'motor deg'],
  slope: ['One unit brings', ''],
  intercept: ['Nothing brings', ''],
  nextCommand: ['Next try', ''],
  residualSd: ['Trials lie off by (SD)', ''],
  measuredLow: ['The next will be at least', ''],
  measuredHigh: ['And at most', ''],
  giveUpAfterS: ['Give up after', 's'],
  worstMove: ['Worst move', ''],
  endXMm: ['Ends forward', 'mm'],
  endYMm: ['Ends to the right', 'mm'],
  endHeadingDeg: ['Pointing', '°'],
  sdXMm: ['Spread forward (SD)', 'mm'],
  sdYMm: ['Spread to the right (SD)', 'mm'],
  sdHeadingDeg: ['Spread of the heading (SD)', '°'],
  covarianceMm2: ['Covariance', 'mm²'],
  timedSdMm: ['Ended by time (SD)', 'mm'],
  countedSdMm: ['Ended by counting (SD)', 'mm'],
  sensedSdMm: ['Ended by a sensor (SD)', 'mm'],
  best: ['Best', ''],
  overlapMm: ['Fork under the load', 'mm'],
  tippingMarginMm: ['Left before it tips', 'mm'],
  loadRadiusMm: ['From axis to its middle', 'mm'],
  maxAccelMPerS2: ['Start, brake and lift at most', 'm/s²'],
  ratio: ['Motor turns for one turn', ''],
  outputSpeedDegPerS: ['It turns at', 'deg/s'],
  outputTorqueMNm: ['With a torque of', 'mN·m'],
  direction: ['Direction', ''],
  clicksPerWheelTurn: ['Clicks a wheel turn', ''],
  targetClicks: ['Clicks for the turn wanted', ''],
  turnLowDeg: ['It has then turned at least', 'robot deg'],
  turnHighDeg: ['And at most', 'robot deg'],
  speedMmPerS: ['Speed', 'mm/s'],
  turnRateDegPerS: ['It turns', 'deg/s'],
  tightestRadiusMm: ['Tightest curve', 'mm'],
  weaveMm: ['Weave to each side', 'mm'],
  keepsLine: ['Keeps the line', ''],
  K: ['Heading gain', 'rad/s a mm'],
  kp: ['kp', '% a %'],
  limitedBy: ['Limited by', ''],
  damping: ['Damping', ''],
  maxSpeedMmPerS: ['Fastest', 'mm/s'],
  leftPercent: ['Left motor', '%'],
  rightPercent: ['Right motor', '%'],
  charge: ['Charge', ''],
  longest: ['Longest', ''],
  rate: ['Rate', ''],
  low: ['At least', ''],
  high: ['At most', ''],
  difference: ['Difference', ''],
  likelyBetter: ['Better, and not by luck', ''],
  moreRunsForDecision: ['More runs a side to settle it', ''],
  packV: ['Pack', 'V'],
  runtimeH: ['Runs for', 'h'],
  needsCommonGround: ['Needs a common ground', ''],
  safe: ['The input stands it', ''],
  readable: ['It counts as high', ''],
  advice: ['Advice', ''],
  mmPerClick: ['A click is', 'mm'],
  pivotDegPerClick: ['Pivoting, a click is', 'robot deg'],
  spinDegPerClick: ['Spinning, a click is', 'robot deg'],
  wheelDegPerClick: ['A click is', 'wheel deg'],
  maxWheelTurnsPerS: ['Fastest wheel', 'turns/s'],
  soundMPerS: ['Sound travels', 'm/s'],
  distanceMm: ['Distance', 'mm'],
  echoMicros: ['Echo after', 'µs'],
  responseS: ['From view to done', 's'],
  mustNoticeAtMm: ['Must be noticed at', 'mm'],
}

/** Works a sum out at the server. */
export async function compute(sum: string, input: Record<string, unknown>): Promise<Answer> {
  const response = await fetch(`/api/sums/${sum}`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify(input),
  })
  const body = (await response.json()) as Answer & { title?: string; errors?: Record<string, string[]> }
  if (!response.ok) throw new Problem(response.status, body.title ?? 'This sum could not be done.', body.errors ?? {})
  return body
}
