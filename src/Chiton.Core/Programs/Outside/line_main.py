# Runs the programs and speaks the line (the page "The line" says what goes over it). Fill in what is yours below; as it stands it runs
# on a computer, talks on its own input and output, and every sensor reads 0.
import os
import select
import sys
import time

from @FILE@ import @NAME@, Order, Rig

NAN = float("nan")

# ---- yours ----

REAL = False  # True once the pins below are real: until then the desk is told that this is a stand-in


def pin_read(sensor):
    # What a sensor reads now: a number, three of a colour in a tuple, None where it hears nothing. Numbered as in @NAME@_sensors.
    return 0 if @NAME@.widths[sensor] == 1 else (0, 0, 0)


def pin_act(order):
    # Does what a device is told. Call board.arrived(device) once a move with an amount has come to its end, board.stuck(device) when it
    # stalls.
    pass


def pin_battery():
    return None  # what the pack gives, V


def pin_micros():
    # It may run over at 2 to the 32nd. Of a clock that does so sooner add up what has passed.
    return time.monotonic_ns() // 1000


def wire_read():
    # What came, b"" while nothing has, None when the line is gone.
    if not select.select([0], [], [], 0.001)[0]:
        return b""
    return os.read(0, 512) or None


def wire_say(line):
    sys.stdout.write(line + "\n")
    sys.stdout.flush()


# ---- the line ----

VERBS = "run drive turn steer follow go home set step stop brake coast hold on off blink tone beep play show zero".split()
UNITS = ["motor deg", "wheel deg", "robot deg", "deg/s", "mm/s", "steps", "deg", "mm", "Hz", "%", "s"]
HOLDS = @HOLDS@


def begins(line, names):
    # Names have blanks in them: the longest one that the line begins with.
    best = None
    for name in names:
        if (line + " ").startswith(name + " ") and (best is None or len(name) > len(best)):
            best = name
    return best, line[len(best) :].strip() if best is not None else line


def number(line):
    word, _, rest = line.partition(" ")
    try:
        value = float(word)
    except ValueError:
        return NAN, "", line
    unit, rest = begins(rest.strip(), UNITS)
    return value, unit or "", rest


def stopped(device):
    return Order(device, "stop")


class Board:
    def __init__(self):
        self.rig = Rig(@NAME@, self)
        self.running = False
        self.now = 0
        self.last = pin_micros()
        self.wanted = {}
        self.ends = {}
        self.before = [None] * len(@NAME@.programs)

    # The hands of the programs.

    def read(self, sensor):
        value = pin_read(sensor)
        if sensor in self.wanted:
            self.tell_reading(sensor, value)
        return value

    def micros(self):
        return pin_micros() & 0xFFFFFFFF

    def act(self, order):
        pin_act(order)

    def send(self, message):
        pass

    def receive(self):
        return None

    # A move has come to its end by itself; a device is told to move and does not.

    def arrived(self, device):
        wire_say("done %s" % @NAME@.devices[device])
        if self.running:
            self.rig.done(device)

    def stuck(self, device):
        wire_say("stalls %s" % @NAME@.devices[device])
        if self.running:
            self.rig.stalls(device)

    # What is said.

    def tell_reading(self, s, value):
        each = "-" if value is None else " ".join(["%.6g" % v for v in (value if isinstance(value, (tuple, list)) else (value,))])
        wire_say("r %d %s %s" % (self.now, @NAME@.sensors[s], each))

    def states(self, over):
        for i in range(len(self.before)):
            now = "-" if over else "+".join(self.rig.states(i))
            if now != self.before[i] and not (over and self.before[i] is None):
                self.before[i] = now
                wire_say("state %d %s %s" % (self.now, @NAME@.names[i], now[:150]))

    def hello(self):
        wire_say("chiton 1 " + @RIG@ + ("" if REAL else " stand-in"))
        for i in range(len(@NAME@.sensors)):
            wire_say("have %s sensor %.6g" % (@NAME@.sensors[i], @NAME@.periods[i] / 1000))
        if HOLDS:
            wire_say("holds " + HOLDS)
        if pin_battery() is not None:
            wire_say("battery %.3g" % pin_battery())

    def answer(self, line):
        what, _, rest = line.partition(" ")
        rest = rest.strip()
        if what == "?":
            if rest == "":
                self.hello()
            elif rest == "holds":
                wire_say("holds " + HOLDS)
            elif rest == "battery":
                if pin_battery() is None:
                    return "I do not know what my pack gives."
                wire_say("battery %.3g" % pin_battery())
            elif rest == "start":
                if self.running:
                    return "It runs already."
                self.rig.begin()
                self.running = True
            elif rest == "stop":
                if self.running:
                    self.states(True)
                self.running = False
                self.ends = {}
                for d in range(len(@NAME@.devices)):
                    pin_act(stopped(d))
            elif rest != "there":
                return "I know: there, holds, battery, start, stop."
        elif what in ("tell", "quiet"):
            if rest not in @NAME@.sensors:
                return "I have no such sensor."
            s = @NAME@.sensors.index(rest)
            if what == "tell":
                self.wanted[s] = self.now
            else:
                self.wanted.pop(s, None)
        elif what == "do":
            return self.order(rest)
        else:
            return "I do not know that."
        return None

    def order(self, line):
        name, line = begins(line, @NAME@.devices)
        if name is None:
            return "I have no such device."
        device = @NAME@.devices.index(name)
        verb, line = begins(line, VERBS)
        if verb is None:
            return "I know no such order."
        value, unit, line = number(line)
        amount, amount_unit, seconds = NAN, "", 0.0
        if value == value:
            amount, amount_unit, line = number(line)
        if (line + " ").startswith("for "):
            seconds, of, line = number(line[4:].strip())
            if not (seconds >= 0 and of == "s"):
                return "Say for how many s."
        pin_act(Order(device, verb, unit, amount_unit, value, amount, seconds, line))
        self.ends.pop(device, None)
        if seconds > 0:
            self.ends[device] = self.now + int(seconds * 1e6)
        return None

    def go(self):
        self.hello()
        heard = b""
        while True:
            came = wire_read()
            if came is None:
                return
            heard += came
            while b"\n" in heard:
                line, _, heard = heard.partition(b"\n")
                if line.strip():
                    no = self.answer(line.decode("utf-8", "replace").strip()) if len(line) <= 800 else "A line has at most 200 characters."
                    wire_say("ok" if no is None else "no " + no)
            heard = heard[-1000:]
            time_now = pin_micros()
            self.now += (time_now - self.last) & 0xFFFFFFFF
            self.last = time_now
            if self.running:
                goes_on = self.rig.step()
                self.states(False)
                if not goes_on:
                    self.states(True)
                    self.running = False
            else:
                for s in list(self.wanted):
                    if self.now >= self.wanted[s]:
                        self.wanted[s] = max(self.wanted[s] + @NAME@.periods[s], self.now)
                        self.tell_reading(s, pin_read(s))
            for device in [d for d in self.ends if self.now >= self.ends[d]]:
                del self.ends[device]
                pin_act(stopped(device))
                self.arrived(device)


board = Board()
board.go()
