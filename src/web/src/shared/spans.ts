/** How wide a guess of a kind plausibly is, whatever its value. */
export const spans = { wheelMm: 12, trackMm: 30, turns: 1, travelMotorDeg: 200, travelServoDeg: 30, lengthMm: 60 }
