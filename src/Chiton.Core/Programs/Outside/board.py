

# ---- what stands between the programs and the board ----
#
# Five functions are yours to fill in, in a class of your own:
#
#   class Hands:
#       def read(self, sensor): ...      # what it reads now: a number, three of a colour in a tuple, None where it hears nothing
#       def act(self, order): ...        # does what a sentence tells a device
#       def micros(self): ...            # the time in microseconds; it may run over at 2 to the 32nd, no sooner
#       def send(self, message): ...     # to a program that is not on this board
#       def receive(self): ...           # what came from one as (program, text, [values]); None while nothing has
#
# Then: rig = Rig(NAME, Hands()); rig.begin(); and rig.step() again and again, at least every half hour; it never waits.
# Tell it besides what only the board can know: rig.done(device) when a move has come to its end by itself, rig.stalls(device),
# rig.moved(device, mm, degrees).


class Order:
    """What a sentence tells a device: numbers are NAN where nothing is said of them, seconds 0 until something else is told."""

    def __init__(self, device, verb, unit="", amount_unit="", value=NAN, amount=NAN, seconds=0.0, words=""):
        self.device = device
        self.verb = verb
        self.unit = unit
        self.amount_unit = amount_unit
        self.value = value
        self.amount = amount
        self.seconds = seconds
        self.words = words


def band_of(reading, thresholds, bands):
    z = 0
    while z < len(thresholds) and reading > thresholds[z]:
        z += 1
    return bands[z][2] if bands[z][0] <= reading <= bands[z][1] else -1


def nearest(r, means, inverse, farthest):
    # The class of a colour whose readings lie nearest, by what they share of scatter; -1 where none is near enough, as a squared distance.
    if r[0] != r[0]:
        return -1
    best = -1
    least = 1e999
    for mean, zone in means:
        squared = 0.0
        for i in range(3):
            for j in range(3):
                squared += (r[i] - mean[i]) * inverse[3 * i + j] * (r[j] - mean[j])
        if squared < least:
            best = zone
            least = squared
    return -1 if least > farthest else best


class Port:
    """What one program does reaches the board through here."""

    def __init__(self, rig, p, index):
        self.rig = rig
        self.p = p
        self.index = index

    def command(self, now, unit, activity, device, value, second, lasts):
        p = self.p
        self.rig.now = now
        row = None if activity < 0 else p.orders[unit][activity]
        if device < 0 and row is None:
            if activity >= 0 and p.units[unit].a_kind[activity] == STOP_ALL:
                for d in p.out_device:
                    self.rig.order(Order(d, "stop"))
            return
        out = -1 if device < 0 else p.out_device[device]
        if row is None:
            self.rig.order(Order(out, "stop", seconds=lasts * 1e-6))
            return
        verb, sign, unit_name, amount_unit, own, amount, words = row
        self.rig.order(
            Order(
                out,
                verb,
                unit_name,
                amount_unit,
                sign * (value if own is None else own),
                second if amount is None else amount,
                lasts * 1e-6,
                words,
            )
        )

    def tell(self, now, program, text, values):
        self.rig.now = now
        self.rig.told_by(self.index, self.p.out_program[program], self.p.out_text[text], values)

    def took(self, now, step):
        pass


class Rig:
    """Programs of a rig on one board."""

    MOST_AT_ONCE = 1000

    def __init__(self, rig, hands):
        self.r = rig
        self.hands = hands
        self.machines = [Machine(p, Port(self, p, i)) for i, p in enumerate(rig.programs)]
        self.fault = None
        self.now = 0
        self.last = 0
        self.flights = []
        self.serial = 0
        self.down = [False] * len(rig.sensors)
        self.next_reading = [0] * len(rig.sensors)

    def begin(self, seed=1):
        """Starts all programs at time 0; what is random in them follows from the seed."""
        self.now = 0
        self.fault = None
        self.flights = []
        self.serial = 0
        self.last = self.hands.micros()
        self.down = [False] * len(self.r.sensors)
        self.next_reading = [0] * len(self.r.sensors)
        for i, m in enumerate(self.machines):
            m.start(seed + i * 7919)
        self.let_pass(0)

    def step(self):
        """Looks what time it is, what came, and what sensors read that are due. False once all programs have ended."""
        time = self.hands.micros()
        gone = (time - self.last) & 0xFFFFFFFF
        # A clock that went back a little has not gone round.
        if gone < 0x80000000:
            self.let_pass(self.now + gone)
            self.last = time
        if self.r.hears:
            message = self.hands.receive()
            while message is not None:
                self.hears(message[0], message[1], message[2])
                message = self.hands.receive()
        for s in range(len(self.next_reading)):
            if self.now < self.next_reading[s]:
                continue
            self.next_reading[s] += self.r.periods[s]
            if self.next_reading[s] <= self.now:
                self.next_reading[s] = self.now + self.r.periods[s]
            self.reads(s, self.hands.read(s))
        return self.runs()

    def runs(self):
        for m in self.machines:
            if m.fault is not None and self.fault is None:
                self.fault = m.fault
        return self.fault is None and not all([m.finished for m in self.machines])

    def let_pass(self, until):
        """Lets time pass until then: what is due happens at its time, messages by arrival."""
        if not self.r.network:
            self.machines[0].pass_until(until)
            self.now = max(self.now, until)
            return
        instant = -1
        arrived = 0
        while self.fault is None:
            due = self.next_due()
            if due > until:
                break
            due = max(due, self.now)
            if due != instant:
                instant = due
                arrived = 0
            self.now = due
            for m in self.machines:
                m.pass_until(due)
            while self.fault is None:
                first = None
                for f in self.flights:
                    if f[0] <= due and (first is None or f[:3] < first[:3]):
                        first = f
                if first is None:
                    break
                arrived += 1
                if arrived > self.MOST_AT_ONCE:
                    self.fault = "messages go round and round"
                    break
                self.flights.remove(first)
                due_at, sender, serial, to, text, values = first
                p = self.machines[to].p
                self.machines[to].told(p.own_text[text], p.own_program[sender], values)
        self.now = max(self.now, until)
        for m in self.machines:
            m.pass_until(self.now)

    def next_due(self):
        due = NEVER
        for m in self.machines:
            if not m.finished and m.fault is None:
                due = min(due, m.next_due())
        for f in self.flights:
            due = min(due, f[0])
        return due

    def at(self, micros_now):
        """Brings the clock to a moment at which something comes, before anything due then has happened."""
        self.now = max(self.now, micros_now)
        for m in self.machines:
            m.at(self.now)

    def knowing(self, sensor):
        for m in self.machines:
            s = m.p.own_sensor[sensor]
            if s >= 0:
                m.at(self.now)
                yield m, m.p, s

    def owning(self, device):
        for m in self.machines:
            d = m.p.own_device[device]
            if d >= 0:
                m.at(self.now)
                yield m, d

    def reads(self, sensor, reading):
        """A reading that came, by whatever way: a number, three in a tuple, None where nothing was heard."""
        r = (NAN,) if reading is None else reading if isinstance(reading, (tuple, list)) else (float(reading),)
        v = r[0]
        for m, p, s in self.knowing(sensor):
            if p.is_switch[s]:
                if v == v and (v > 0.5) != self.down[sensor]:
                    m.see_zone(s, p.down if v > 0.5 else p.up)
            elif reading is not None and v != v:
                m.sense(s, v)
            elif p.reader[s] > 1:
                m.sense_zone(s, -1 if reading is None else p.zone_of(s, r))
            elif reading is not None:
                m.read(s, v)
            elif p.may_hear_nothing[s]:
                m.silent(s)
            else:
                m.sense(s, v)
        if v == v:
            self.down[sensor] = v > 0.5

    def sees(self, sensor, zone):
        """A sensor that knows its zone itself."""
        for m, p, s in self.knowing(sensor):
            m.sense_zone(s, p.zones.index(zone) if zone in p.zones else -1)

    def done(self, device):
        """A move has come to its end by itself."""
        for m, d in self.owning(device):
            m.ended(d)

    def stalls(self, device):
        for m, d in self.owning(device):
            m.stalled(d)

    def gives_up(self, device):
        for m, d in self.owning(device):
            m.gives_up(d)

    def moved(self, device, mm, degrees):
        """How far a device has come: way of a drive in mm, angle in degrees."""
        for m, d in self.owning(device):
            if m.p.measures_device[d]:
                m.moved(d, float(mm), float(degrees))

    def hears(self, program, text, values):
        """A message that came from a program elsewhere; one that nobody knows is not heard."""
        if text not in self.r.texts:
            return
        t = self.r.texts.index(text)
        sender = self.r.names.index(program) if program in self.r.names else -1
        for m in self.machines:
            if m.p.own_text[t] >= 0:
                m.at(self.now)
                m.told(m.p.own_text[t], -1 if sender < 0 else m.p.own_program[sender], [float(v) for v in values])

    def states(self, program):
        """The states of a program that are active, as people name them."""
        return self.machines[program].states()

    def order(self, order):
        self.hands.act(order)

    def told_by(self, sender, to, text, values):
        if to >= len(self.machines):
            self.hands.send((self.r.names[to], self.r.texts[text], values[:16]))
            return
        if not self.r.network:
            return
        if len(self.flights) == self.r.most_on_the_way:
            self.fault = "too many messages are on their way"
            return
        self.flights.append((self.now + self.r.message_micros, sender, self.serial, to, text, values[:16]))
        self.serial += 1
